import { guarded } from '@/server/services/request-guard';
import { installUpload } from '@/server/services/vault-files';

interface Context {
  readonly params: Promise<{ sha: string }>;
}

export const PUT = guarded<Context>(async (request, { params }) =>
  Response.json(await installUpload((await params).sha, request)),
);
