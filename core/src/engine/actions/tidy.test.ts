import type { TidyStep } from './tidySteps';
import { company, rule, run, written } from '../testHarbour';
import { fits } from '../../model/wildcard';
import { replaced } from './tidied';

describe('tidy', () => {
  const tidy = (...steps: TidyStep[]) => rule([{ kind: 'tidy', target: 'record', steps }]);
  const after = async (...steps: TidyStep[]) => written((await run(company, [tidy(...steps)])).writes);

  test('fields are cleared by a pattern of their names; the id and read-only ones stay', async () => {
    expect(await after({ do: 'remove fields', pattern: 'old_*' })).toEqual([
      'company/C1 old_phone=null old_fax=null',
    ]);
  });

  test('a field is set only where it holds nothing', async () => {
    expect(await after({ do: 'set when absent', field: 'since', formula: 'DATE(2026, 1, 2)' })).toEqual([
      'company/C1 since="2026-01-02"',
    ]);
    expect(await after({ do: 'set when absent', field: 'status', formula: '"x"' })).toEqual([]);
  });

  test('characters of a code are replaced at their position', async () => {
    expect(await after({ do: 'set characters', field: 'code', position: 4, formula: '"99"' })).toEqual([
      'company/C1 code="AB-99"',
    ]);
  });

  test('steps see what those before them did, and the report tells of each', async () => {
    const steps: TidyStep[] = [
      { do: 'clean', field: 'name', how: 'upper case' },
      { do: 'set characters', field: 'name', position: 1, formula: 'LOWER(LEFT(target.name, 2))' },
    ];
    const { writes, rules } = await run(company, [tidy(...steps)]);
    expect(written(writes)).toEqual(['company/C1 name="skERRY LINE"']);
    expect(rules[0]?.steps[0]).toMatchObject({
      tidied: true,
      lines: [
        {
          field: 'name',
          before: 'Skerry Line',
          value: { json: 'SKERRY LINE' },
          because: 'Put in order: upper case.',
        },
        {
          field: 'name',
          before: 'SKERRY LINE',
          value: { json: 'skERRY LINE' },
          because: 'Position 1 of the code.',
        },
      ],
    });
  });

  test('a step that fails leaves its field alone, and the others are done', async () => {
    const { writes, rules } = await run(company, [
      tidy(
        { do: 'set when absent', field: 'since', formula: 'VALUE("x")' },
        { do: 'remove fields', pattern: 'old_f*' },
      ),
    ]);
    expect(written(writes)).toEqual(['company/C1 old_fax=null']);
    expect(rules[0]).toMatchObject({ verdict: 'failed' });
  });

  test.each([
    ['old_phone', 'old_*', true],
    ['old_phone', '*phone', true],
    ['old_phone', 'o*_*e', true],
    ['old_phone', '*', true],
    ['old_phone', 'old', false],
    ['aa', 'a*a*a', false],
    ['Old_phone', 'old_*', false],
  ])('%s fits %s: %s', (name, pattern, fit) => expect(fits(name, pattern)).toBe(fit));

  test.each([
    ['AB-12', 1, 'ZZ', 'ZZ-12'],
    ['AB', 5, 'X', 'AB  X'],
    ['A🚢B', 2, 'x', 'AxB'],
    ['', 1, 'N', 'N'],
    ['ABC', 3, 'XYZ', 'ABXYZ'],
  ])('%s with characters put at %d: %s gives %s', (text, position, put, result) =>
    expect(replaced(text, position, put)).toBe(result),
  );
});
