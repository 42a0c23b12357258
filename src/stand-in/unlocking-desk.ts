import type { HandsetProfile } from '@/core/handset/state';
import { unlockToken } from '@/core/handset/variables';
import type { Mail } from './stand-in-store';

/* What the unlocking desk of a simulated handset's maker answers. */

type Answer = Omit<Mail, 'from'>;
/** It lands among the junk, as such mails do. */
const CODE_MAIL = ({ serial, unlockCode }: HandsetProfile): Answer => ({
  folder: 'junk',
  subject: 'Your code',
  text: `The code of ${serial}: ${unlockCode ?? ''}`,
});
const NO_TOKEN_MAIL: Answer = {
  folder: 'inbox',
  subject: 'Your request',
  text: 'This is no token of ours. Send all its lines as one, without spaces and without what stands before them.',
};

export const answerOfDesk = (profile: HandsetProfile, text: string): Answer =>
  text === unlockToken(profile) ? CODE_MAIL(profile) : NO_TOKEN_MAIL;
