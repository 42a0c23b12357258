import type { ImageSummary } from '@/contracts/image-view';

/** What an image is, in a word or two. */
export const roleWords = ({ role, kit }: Pick<ImageSummary, 'role' | 'kit'>): string =>
  role === 'patched'
    ? kit === null
      ? 'patched elsewhere'
      : `patched by ${kit}`
    : role === 'unknown'
      ? 'origin not proved'
      : role;
