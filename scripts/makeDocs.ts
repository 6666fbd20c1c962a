import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';
import { bundleReference } from './docs/bundleReference';
import { findingsReference } from './docs/findingsReference';
import { formulaReference } from './docs/formulaReference';
import { jsonSchemas } from './docs/jsonSchemas';
import { ruleMembers } from './docs/ruleMembers';
import { ruleReference } from './docs/ruleReference';

/** Writes the reference pages from the code; with --check only says whether they are up to date. */
const pages = new Map([
  ['docs/reference/bundle.md', await bundleReference()],
  ['docs/reference/findings.md', findingsReference()],
  ['docs/reference/formula.md', formulaReference()],
  ['docs/reference/rule.md', ruleReference()],
  // A browser cannot ask a schema what it says.
  ['web/src/help/ruleMembers.json', `${JSON.stringify(ruleMembers(), null, 2)}\n`],
  ...jsonSchemas(),
]);
const checking = process.argv.includes('--check');

for (const [file, text] of pages) {
  if (!checking) {
    mkdirSync(dirname(file), { recursive: true });
    writeFileSync(file, text);
  } else if (read(file) !== text) {
    console.error(`${file} is not what the code says. Run: npm run docs`);
    process.exitCode = 1;
  }
}

function read(file: string): string | undefined {
  try {
    return readFileSync(file, 'utf8');
  } catch {
    // The page has not been written yet.
    return undefined;
  }
}
