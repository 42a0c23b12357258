import { guarded } from '@/server/services/request-guard';
import { downloadedFile } from '@/server/services/downloads';

interface Context {
  readonly params: Promise<{ sha: string }>;
}

export const GET = guarded<Context>(async (request, { params }) =>
  downloadedFile(
    (await params).sha,
    new URL(request.url).searchParams.get('name')?.slice(0, 255) ?? 'package.zip',
  ),
);
