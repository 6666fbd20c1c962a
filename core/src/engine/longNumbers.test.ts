import { fieldsOf } from '../change/fields';
import { compile } from '../formula/compile';
import { exampleEnv, exampleScope } from '../formula/testScope';
import { parseJson, printJson } from '../model/jsonText';
import type { JsonObject } from '../model/json';
import { toJson } from '../formula/toJson';
import { find, line, rule, run, stored, updated, write } from './testHarbour';

/** Numbers beyond what a float holds go through a rule with all their digits, from one system's JSON to another's. */
const long = '98765432109876543210.55';

describe('a number with many digits', () => {
  const event = updated(
    parseJson(`{"name": "Skerry", "size": ${long}, "code": 12345678901234567890}`) as JsonObject,
    {
      size: 1,
    },
  );

  test('is copied, counted with and taken as text without losing one', async () => {
    const account = stored('account', 'A1', { name: 'Skerry', limit: 1 });
    const { writes } = await run(
      event,
      [
        rule(
          [
            write(
              'account',
              line('limit', 'size * 100'),
              line('note', 'RIGHT(code, 12)'),
              line('mail', 'code'),
            ),
          ],
          {
            finds: [find('account', 'name', 'name')],
          },
        ),
      ],
      [account],
    );
    const [{ change } = { change: undefined }] = writes;
    const after = Object.fromEntries((change ? fieldsOf(change) : []).map((edit) => [edit.path, edit.after]));
    expect(printJson(after)).toBe(
      '{"limit":9876543210987654321055,"note":"901234567890","mail":"12345678901234567890"}',
    );
  });

  test('that a record holds already is not written again', async () => {
    const held = stored(
      'account',
      'A1',
      parseJson(`{"name": "Skerry", "limit": 9876543210987654321055.0}`) as JsonObject,
    );
    const { writes } = await run(
      event,
      [
        rule([write('account', line('limit', 'size * 100'))], {
          finds: [find('account', 'name', 'name')],
        }),
      ],
      [held],
    );
    expect(writes).toEqual([]);
  });
});

test.each([
  ['PARSEJSON("[12345678901234567890]")', '[12345678901234567890]'],
  ['AT(PARSEJSON("{""a"": 0.12345678901234567890123}"), "/a") * 10', '1.2345678901234567890123'],
  ['JSONTEXT(12345678901234567890 + 1)', '"12345678901234567891"'],
  ['9007199254740993 = 9007199254740992', 'false'],
  ['1 / 3', '0.3333333333333333333333333333333333'],
  ['99999999999999999999 * 99999999999999999999', '9999999999999999999800000000000000000001'],
  ['0.1 + 0.2', '0.3'],
  ['2 ^ 200', '1606938044258990275541962092341162602522202993782792835301376'],
  ['MOD(10 ^ 40 + 7, 10)', '7'],
])('%s is exact', (formula, json) => {
  const result = compile(formula, exampleScope);
  expect(printJson(result.ok && toJson(result.formula.run(exampleEnv)))).toBe(json);
});
