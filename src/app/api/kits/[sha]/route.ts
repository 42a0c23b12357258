import { guarded } from '@/server/services/request-guard';
import { kitDownload, kitUpload } from '@/server/services/vault-files';

interface Context {
  readonly params: Promise<{ sha: string }>;
}

export const GET = guarded<Context>(async (_request, { params }) => kitDownload((await params).sha));
export const PUT = guarded<Context>(async (request, { params }) =>
  Response.json(await kitUpload((await params).sha, request)),
);
