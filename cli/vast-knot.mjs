#!/usr/bin/env node
import { pathToFileURL } from 'node:url';
import { builtCommandLine } from '../scripts/build.mjs';

const { main } = await import(pathToFileURL(await builtCommandLine()).href);
process.exitCode = await main(process.argv.slice(2), process.cwd());
