import 'server-only';
import { AsyncLocalStorage } from 'node:async_hooks';

/** What stops the job that the current work belongs to; every connection that is opened in it ends with it. */
export const jobSignal = new AsyncLocalStorage<AbortSignal>();
