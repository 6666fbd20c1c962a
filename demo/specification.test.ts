import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import {
  bundleProblemText,
  kindOf,
  linesIn,
  readBundles,
  specificationHtml,
  specificationOf,
  specificationSheets,
  surroundingsIn,
  type Rule,
} from '@vast-knot/core';
import { Workbook } from 'exceljs';

const files = readdirSync(__dirname, { recursive: true, encoding: 'utf8' })
  .filter((file) => file.endsWith('.json'))
  .map((file) => ({ file, json: JSON.parse(readFileSync(join(__dirname, file), 'utf8')) as unknown }));
const read = readBundles(files);
if (!read.ok) throw new Error(read.problems.map(bundleProblemText).join('; '));
const { bundle } = read;
const known: readonly Rule[] = bundle.rules.map(({ id, rule }) => ({ ...rule, id, version: 1 }));
const surroundings = { ...surroundingsIn(bundle), endpoints: new Set(['notice-post']) };
const made = specificationOf({ rules: known, known, samples: bundle.samples }, surroundings);
const where = { environment: 'Trial <b>', at: '2026-11-28T08:00:00Z' };

test('a rule is told in words: what starts it, what it reaches, what fills which field, with examples of its samples', async () => {
  const { rules } = await made;
  const rule = rules.find(({ name }) => name === 'Manifest row becomes a unit');
  expect(rule).toMatchObject({
    starts: 'Manifest row in Files and forms comes as a row of a file.',
    onlyIf: '',
    finds: [
      '“load”: Booking of Freight Desk whose Id is booking. Where there is none, the rule fails; where there are several, the rule fails.',
      expect.stringContaining('Where there is none, one is created'),
    ],
  });
  const [part] = rule?.parts ?? [];
  expect(part).toMatchObject({ system: 'Freight Desk', recordType: 'Unit' });
  expect(part?.lines.find(({ code }) => code === 'grossKg')).toMatchObject({
    sources: ['Manifest row › Weight (weight)'],
    how: 'VALUE(SUBSTITUTE(weight, ",", ""))',
    label: 'Gross weight in kg',
    when: 'only when there is a value',
    examples: [
      { sample: 'Container that is new', value: '12400' },
      { sample: 'Container that is known', value: '9800' },
    ],
  });
});

test('every line of every rule is in it, and every table that is read', async () => {
  const { rules, tables } = await made;
  expect(rules).toHaveLength(known.length);
  for (const [n, { parts }] of rules.entries())
    expect(parts.map(({ lines }) => lines.map(({ code, how }) => [code, how]))).toEqual(
      known[n]?.actions.map((action) => [
        ...(kindOf(action).tells?.(action) ?? []).map(({ formula }) => ['', formula]),
        ...linesIn(action).map(({ field, formula }) => [field, formula]),
      ]),
    );
  expect(tables.map(({ name }) => name)).toContain('Ports to tariff zones');
  for (const { count, rows } of tables) expect(rows.length).toBe(count);
});

test('as a page it holds all of it, and nothing of it is taken for a mark of the page', async () => {
  const html = specificationHtml(await made, where);
  expect(html).toContain('Made from the rules of Trial &lt;b&gt; at 2026-11-28T08:00:00Z.');
  for (const { name } of known) expect(html).toContain(`<h2>${name.replaceAll('&', '&amp;')}</h2>`);
  const hostile: Rule = { ...(known[0] as Rule), name: '<script>alert(1)</script>', note: '"><img src=x>' };
  const page = specificationHtml(
    await specificationOf({ rules: [hostile], known: [hostile], samples: [] }, surroundings),
    where,
  );
  expect(page).not.toContain('<script');
  expect(page).not.toContain('<img');
});

// The workbook is read by a library of the registry (exceljs) that did not write it.
test('as a workbook it has a sheet of the rules, one of all lines, and one for each table', async () => {
  const specification = await made;
  const book = new Workbook();
  const bytes = await specificationSheets(specification);
  await book.xlsx.load(Buffer.from(bytes) as unknown as ArrayBuffer);
  const names = book.worksheets.map(({ name }) => name);
  expect(names.slice(0, 2)).toEqual(['Rules', 'Mapping']);
  expect(names).toHaveLength(2 + specification.tables.length);
  const lines = specification.rules.flatMap(({ parts }) => parts.flatMap((part) => part.lines));
  expect(book.getWorksheet('Mapping')?.rowCount).toBe(lines.length + 1);
  expect(book.getWorksheet('Rules')?.getCell('A2').value).toBe(known[0]?.name);
});
