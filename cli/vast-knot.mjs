#!/usr/bin/env node
import { spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { build, builtCommandLine } from '../scripts/build.mjs';

const words = process.argv.slice(2);
if (words[0] === 'audit' || words[0] === 'rotate-key') {
  // What is done with the database of an installation is part of the server, and reads the same settings from the environment.
  const server = fileURLToPath(new URL('../server/dist/main.mjs', import.meta.url));
  if (!existsSync(server)) await build();
  process.exitCode = spawnSync(process.execPath, [server, ...words], { stdio: 'inherit' }).status ?? 1;
} else {
  const { main } = await import(pathToFileURL(await builtCommandLine()).href);
  process.exitCode = await main(words, { folder: process.cwd(), environment: process.env });
}
