import { pictureResponse } from '@/server/services/note-service';
import { guarded } from '@/server/services/request-guard';

interface Context {
  readonly params: Promise<{ sha: string }>;
}

export const GET = guarded<Context>(async (_request, { params }) => pictureResponse((await params).sha));
