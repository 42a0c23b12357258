import { backupResponse, receiveBackup } from '@/server/services/backup-service';
import { guarded } from '@/server/services/request-guard';
import { bodyPieces } from '@/server/services/streams';

export const GET = guarded(async (request) =>
  backupResponse(new URL(request.url).searchParams.get('private') === 'yes'),
);
export const POST = guarded(async (request) => Response.json(await receiveBackup(bodyPieces(request))));
