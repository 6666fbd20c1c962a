import type { Action } from '.';
import { company, people, reached, ref, rule, run } from '../testHarbour';

describe('send', () => {
  const send: Action = {
    kind: 'send',
    endpoint: 'post',
    type: 'example.company.opened',
    parts: [
      { name: 'company', formula: 'name' },
      { name: 'contact.name', formula: 'person.name' },
      { name: 'size', formula: 'size' },
    ],
  };

  test('a message carries fields of the triggering and of found records, under dotted names', async () => {
    const { messages, writes } = await run(company, [rule([send], reached)], people.slice(0, 1));
    expect(writes).toEqual([]);
    expect(messages).toEqual([
      {
        id: 'new-1-e1',
        endpoint: 'post',
        type: 'example.company.opened',
        ref: ref('company', 'C1'),
        data: { company: 'Skerry Line', contact: { name: 'Runa' }, size: 3 },
        rule: { id: 'r0', name: 'rule', version: 1 },
      },
    ]);
  });

  test('a replay plans the same message under the same id', async () => {
    const twice = await Promise.all([1, 2].map(() => run(company, [rule([send], reached)], people)));
    expect(twice[0]?.messages).toEqual(twice[1]?.messages);
  });

  test('a value that is an error keeps the message back and says which', async () => {
    const broken: Action = { ...send, parts: [{ name: 'size', formula: 'VALUE(name)' }] };
    const { messages, rules } = await run(company, [rule([broken])]);
    expect(messages).toEqual([]);
    expect(rules[0]).toMatchObject({
      verdict: 'failed',
      because: expect.stringContaining('is not sent: size:'),
    });
  });
});
