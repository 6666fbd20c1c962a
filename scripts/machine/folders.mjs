import { createHash } from 'node:crypto';
import { fileURLToPath } from 'node:url';
import { join } from 'node:path';

/** The project's own folder. */
export const root = fileURLToPath(new URL('../..', import.meta.url)).replace(/\/$/, '');

/** What a run leaves on this machine: stamps, secrets, logs. Never committed. */
export const local = join(root, '.local');

/** Tells checkouts of the project on one machine apart. */
export const checkout = createHash('sha256').update(root).digest('hex').slice(0, 8);
