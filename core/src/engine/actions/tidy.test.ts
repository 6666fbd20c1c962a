import type { TidyStep } from './tidySteps';
import { writeTagged, type TaggedField, type TaggedRecord } from '../../formats/files/tagged';
import { company, compiled, rule, run, written } from '../testHarbour';
import type { TaggedStep } from '../tidyTagged';
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

describe('a tagged record that a field holds', () => {
  const leader = '00000nam a2200000   4500';
  const tagged = (fields: TaggedRecord['fields']) => {
    const written = writeTagged({ leader, fields }, (text) => new TextEncoder().encode(text));
    return written.ok ? new TextDecoder().decode(written.bytes) : written.because;
  };
  const number: TaggedField = { tag: '001', data: 'SC-1' };
  const coded: TaggedField = { tag: '007', data: 'kbaa' };
  const local: TaggedField = { tag: '590', indicators: '  ', subfields: [['a', 'Old shelf']] };
  const held = tagged([number, coded, local]);
  const step = (taken: TaggedStep): TidyStep => ({ do: 'tidy tagged', field: 'code', step: taken });
  const holding = (code: string, ...steps: TidyStep[]) =>
    run({ ...company, record: { ...company.record, code } }, [
      rule([{ kind: 'tidy', target: 'record', steps }]),
    ]);

  test('on save its fields are removed, its characters put and fields added, step by step', async () => {
    const { writes, rules } = await holding(
      held,
      step({ kind: 'remove', what: '59*', only: 'PLACE("001") = "SC-1"' }),
      step({ kind: 'put', at: '007/1', characters: 'o', only: '' }),
      step({ kind: 'add', tag: '856', indicators: '4#', subfields: [{ code: 'u', text: 'x' }], only: '' }),
    );
    const now = tagged([
      number,
      { tag: '007', data: 'koaa' },
      { tag: '856', indicators: '4 ', subfields: [['u', 'x']] },
    ]);
    expect(written(writes)).toEqual([`company/C1 code=${JSON.stringify(now)}`]);
    const [told] = rules[0]?.steps ?? [];
    expect(told?.kind === 'write' && told.lines.map(({ formula, because }) => [formula, because])).toEqual([
      ['tagged: remove 59*', '590 ## $aOld shelf → gone'],
      ['tagged: put o at 007/1', '007 kbaa → koaa'],
      ['tagged: add 856', '856 new: 4# $ux'],
    ]);
  });

  test('saved once more, nothing is left to be done', async () => {
    const { writes, rules } = await holding(
      tagged([number]),
      step({ kind: 'remove', what: '59*', only: '' }),
    );
    expect(writes).toEqual([]);
    expect(rules[0]?.verdict).toBe('nothing to write');
  });

  test('what is no tagged record is left alone, with the reason; a blank one is nothing', async () => {
    const remove = step({ kind: 'remove', what: '59*', only: '' });
    const { writes, rules } = await holding('AB-12', remove);
    expect(writes).toEqual([]);
    expect(rules[0]?.because).toMatch(/code of company C1: It holds no tagged record: It has 5 bytes/);
    expect((await holding('', remove)).rules[0]?.verdict).toBe('nothing to write');
  });

  test('a step that names no place is told before the rule runs', () => {
    expect(() =>
      compiled([
        rule([
          {
            kind: 'tidy',
            target: 'record',
            steps: [
              step({ kind: 'put', at: 'title', characters: 'x', only: '' }),
              { do: 'tidy tagged', field: 'size', step: { kind: 'remove', what: '500', only: '' } },
            ],
          },
        ]),
      ]),
    ).toThrow(/steps\/0\/step: “title” is no position.*steps\/1\/field: “size” holds no text/s);
  });
});
