#!/usr/bin/env node
import { register } from 'tsx/esm/api';

// The sources run as they are: what is replayed in a pipeline is what was checked out.
register();
const { main } = await import('./src/main.ts');
process.exitCode = await main(process.argv.slice(2), process.cwd());
