import { passportResponse } from '@/server/services/passport-service';
import { guarded } from '@/server/services/request-guard';

export const GET = guarded<{ readonly params: Promise<{ id: string }> }>(async (_request, { params }) =>
  passportResponse((await params).id),
);
