import type { Action } from '.';
import { recordAfter } from '../../change/fields';
import { company, find, line, people, rule, run, write, written } from '../testHarbour';

describe('copy', () => {
  const copy: Action = {
    kind: 'copy',
    of: 'record',
    alias: 'next',
    system: 'book',
    recordType: 'company',
    lines: [line('name', 'name & " II"')],
  };

  test('all that can be copied, then the lines; not the id and what is read-only', async () => {
    const { writes } = await run(company, [rule([copy])]);
    expect(writes.map(recordAfter)).toEqual([
      {
        name: 'Skerry Line II',
        domain: 'skerry.example',
        status: 'open',
        size: 3,
        code: 'AB-12',
        old_phone: '1',
        old_fax: '2',
      },
    ]);
  });

  test('a found record is copied too, and the copy is known to later actions', async () => {
    const body = rule(
      [
        {
          ...copy,
          of: 'person',
          alias: 'twin',
          recordType: 'person',
          lines: [line('note', '"copy of " & person.name')],
        },
        write('person', line('note', '"copied to " & twin.name')),
      ],
      { finds: [find('person', 'company', 'id', { where: 'person.status = "active"' })] },
    );
    const { writes } = await run(company, [body], people);
    expect(written(writes)).toEqual([
      'create person name="Runa" status="active" company="C1" note="copy of Runa"',
      'person/P1 note="copied to Runa"',
    ]);
  });
});
