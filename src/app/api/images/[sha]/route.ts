import { guarded } from '@/server/services/request-guard';
import { imageDownload, imageUpload } from '@/server/services/vault-files';

interface Context {
  readonly params: Promise<{ sha: string }>;
}

export const GET = guarded<Context>(async (_request, { params }) => imageDownload((await params).sha));
export const PUT = guarded<Context>(async (request, { params }) =>
  Response.json(await imageUpload((await params).sha, request)),
);
