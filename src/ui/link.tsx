import NextLink from 'next/link';
import type { ComponentProps } from 'react';

/**
 * A link to another room. Its page is made when it is asked for: making all pages that could be asked for, at
 * each refresh, is work for nothing.
 */
export function Link(props: Omit<ComponentProps<typeof NextLink>, 'prefetch'>) {
  return <NextLink {...props} prefetch={false} />;
}
