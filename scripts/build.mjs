import { ensureBuilt } from './prepare.mjs';

ensureBuilt();
