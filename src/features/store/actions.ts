'use server';
import type { InferType } from 'yup';
import {
  commandsSchema,
  imageHashSchema,
  recoverySchema,
  restoreSchema,
  trialSchema,
} from '@/contracts/inputs';
import { cableSwitchSchema } from '@/contracts/cable-inputs';
import type { JobView } from '@/contracts/job-view';
import type { Outcome } from '@/contracts/outcome';
import { checked, outcome } from '@/contracts/outcome';
import type { Shell } from '@/core/steps/commands';
import { restoreBackup } from '@/server/services/backup-service';
import { switchCable } from '@/server/services/cable-service';
import { noteTrial, shelveRecovery } from '@/server/services/record-service';
import { saveCommands } from '@/server/services/vocabulary-service';
import { checkVault, throwAway } from '@/server/services/vault-service';

export async function checkVaultAction(): Promise<Outcome<JobView>> {
  return outcome(checkVault);
}

export async function switchCableAction(on: boolean): Promise<Outcome<void>> {
  return checked(cableSwitchSchema, { on }, (input) => switchCable(input.on));
}

export async function throwAwayAction(sha256: string): Promise<Outcome<void>> {
  return checked(imageHashSchema, { sha256 }, (input) => throwAway(input.sha256));
}

export async function restoreAction(token: string): Promise<Outcome<JobView>> {
  return checked(restoreSchema, { token }, (input) => restoreBackup(input.token));
}

export async function shelveRecoveryAction(input: InferType<typeof recoverySchema>): Promise<Outcome<void>> {
  return checked(recoverySchema, input, shelveRecovery);
}

export async function noteTrialAction(input: InferType<typeof trialSchema>): Promise<Outcome<void>> {
  return checked(trialSchema, input, noteTrial);
}

export async function saveCommandsAction(
  shell: Shell,
  templates: Readonly<Record<string, string>>,
  tool: string,
): Promise<Outcome<void>> {
  return checked(commandsSchema, { shell, templates, tool }, (input) =>
    saveCommands(input.shell, input.templates, input.tool),
  );
}
