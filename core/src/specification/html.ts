import { htmlText as text } from '../formats/htmlText';
import {
  digest,
  type Specification,
  type SpecifiedPart,
  type SpecifiedRule,
  type SpecifiedTable,
} from './specification';

/** Where and when a specification was made. */
export interface MadeWhere {
  readonly environment: string;
  /** ISO 8601. */
  readonly at: string;
}

const style = `
:root { color-scheme: light dark; --ground: #f7f2ea; --ink: #22252a; --dim: #5d5f63; --line: #ddd3c3; --settled: #0f6570; }
@media (prefers-color-scheme: dark) { :root { --ground: #1c1d1f; --ink: #e8e6e1; --dim: #a5a6a8; --line: #3a3c40; --settled: #6cc3cf; } }
body { max-width: 72rem; margin: 2rem auto; padding: 0 1.5rem; background: var(--ground); color: var(--ink); font: 15px/1.5 system-ui, sans-serif; }
h2 { margin-top: 2.5rem; padding-top: 1rem; border-top: 2px solid var(--line); }
code { font-family: ui-monospace, monospace; font-size: 0.92em; overflow-wrap: anywhere; }
table { width: 100%; border-collapse: collapse; margin: 0.5rem 0 1rem; }
th, td { padding: 0.35rem 0.5rem; border: 1px solid var(--line); text-align: left; vertical-align: top; }
.dim { color: var(--dim); }
a { color: var(--settled); }
@media print { body { margin: 0; max-width: none; } h2 { break-after: avoid; } tr { break-inside: avoid; } }
`;

/** Returns a specification as one page, which needs nothing from elsewhere. */
export function specificationHtml({ rules, tables }: Specification, { environment, at }: MadeWhere): string {
  const contents = rules.map(({ name }, n) => `<li><a href="#rule-${n + 1}">${text(name)}</a></li>`).join('');
  return `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width">
<title>What is mapped to what</title>
<style>${style}</style>
</head>
<body>
<h1>What is mapped to what</h1>
<p class="dim">Made from the rules of ${text(environment)} at ${text(at)}.</p>
<nav aria-label="Rules"><ol>${contents}</ol></nav>
${rules.map(ruleHtml).join('\n')}
${tables.map(tableHtml).join('\n')}
</body>
</html>
`;
}

function ruleHtml({ name, note, version, starts, onlyIf, finds, parts }: SpecifiedRule, n: number): string {
  return `<section id="rule-${n + 1}" aria-label="${text(name)}">
<h2>${text(name)}</h2>
<p class="dim">${version === 0 ? 'As edited.' : `Version ${version}, as it runs.`}${note === '' ? '' : ` ${text(note)}`}</p>
<p><strong>When</strong> ${text(starts)}</p>
${onlyIf === '' ? '' : `<p><strong>Only if</strong> <code>${text(onlyIf)}</code></p>`}
${finds.map((find) => `<p><strong>Finds</strong> ${text(find)}</p>`).join('\n')}
${parts.map(partHtml).join('\n')}
</section>`;
}

function partHtml({ does, system, recordType, onlyIf, lines }: SpecifiedPart): string {
  const rows = lines
    .map(
      ({ sources, how, label, code, type, when, examples }) =>
        `<tr><td>${sources.map(text).join('<br>') || '<span class="dim">a constant</span>'}</td><td><code>${text(how)}</code></td>` +
        `<td>${text(label)} <code class="dim">${text(code)}</code></td><td>${text(type)}</td><td>${text(when)}</td>` +
        `<td>${examples.map((each) => `<code>${text(each.value)}</code> <span class="dim">${text(each.sample)}</span>`).join('<br>')}</td></tr>`,
    )
    .join('\n');
  return `<h3>${text(digest({ does, system, recordType }))}</h3>
${onlyIf === '' ? '' : `<p>Only where <code>${text(onlyIf)}</code></p>`}
${
  lines.length === 0
    ? ''
    : `<table><thead><tr><th>From</th><th>How</th><th>Target field</th><th>Type</th><th>When</th><th>Examples</th></tr></thead><tbody>
${rows}
</tbody></table>`
}`;
}

function tableHtml({ name, columns, rows, count }: SpecifiedTable): string {
  const more = count > rows.length ? `<p class="dim">The first ${rows.length} of ${count} rows.</p>` : '';
  return `<section aria-label="Table ${text(name)}">
<h2>Table “${text(name)}”</h2>
<table><thead><tr>${columns.map((column) => `<th>${text(column)}</th>`).join('')}</tr></thead><tbody>
${rows.map((row) => `<tr>${row.map((cell) => `<td>${text(cell)}</td>`).join('')}</tr>`).join('\n')}
</tbody></table>
${more}
</section>`;
}
