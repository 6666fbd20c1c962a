import { checks } from '@vast-knot/core';

const introduction = `# Findings

Made from the code by \`npm run docs\`: what is said about a rule before it runs. An error keeps a draft from being published; a
warning is listed and does not; a note is only told. Each finding stands in the row that it is about, with a fix to press where there
is one. To add a kind, write its file in \`core/src/check/\` and its line in \`core/src/check/index.ts\`.

| kind | what it is about |
| --- | --- |
`;

/** The reference page of the findings, a row for each kind in the order in which they are looked for. */
export function findingsReference(): string {
  return `${introduction}${checks.map(({ kind, meaning }) => `| ${kind} | ${meaning} |`).join('\n')}\n`;
}
