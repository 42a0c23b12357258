// a thread does not inherit the loader that reads TypeScript: it is registered here before the thread's own
// module is read
import { register } from 'tsx/esm/api';

register();
await import('./codec-thread.ts');
