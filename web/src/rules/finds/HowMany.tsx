import { Checkbox, Select } from '@mantine/core';
import type { Find } from '@vast-knot/core';
import { Phrase } from '../../parts/Phrase';
import type { FindEdits } from './findEdits';
import { noneWords, severalWords } from './findWords';

interface HowManyProps extends FindEdits {
  readonly find: Find;
  readonly fields: readonly { readonly value: string; readonly label: string }[];
}

/** What the rule does when a find gives none, or several; and whether the pair is remembered. */
export function HowMany({ find, fields, set, drop }: HowManyProps) {
  const { alias, none, several, order } = find;
  return (
    <span className="small dim">
      On none the rule{' '}
      <Phrase says={noneWords[none]} label={`What happens when no ${alias} is found`} width={240}>
        <Select
          label="When none is found, the rule"
          data={Object.entries(noneWords).map(([value, label]) => ({ value, label }))}
          value={none}
          onChange={(chosen) => chosen !== null && set({ none: chosen as Find['none'] })}
        />
      </Phrase>
      ; on several it{' '}
      <Phrase
        says={several === 'first' ? `takes the first by ${order?.field ?? 'its id'}` : severalWords[several]}
        label={`What happens when several ${alias} are found`}
        width={260}
      >
        <Select
          label="When several are found, the rule"
          data={Object.entries(severalWords).map(([value, label]) => ({ value, label }))}
          value={several}
          onChange={(chosen) => chosen !== null && set({ several: chosen as Find['several'] })}
        />
        {several === 'first' && (
          <>
            <Select
              label="Ordered by"
              mt={8}
              data={[{ value: '', label: 'its id' }, ...fields]}
              value={order?.field ?? ''}
              onChange={(field) =>
                field === null || field === ''
                  ? drop('order')
                  : set({ order: { field, descending: order?.descending ?? false } })
              }
            />
            {order && (
              <Checkbox
                mt={8}
                label="the highest first"
                checked={order.descending}
                onChange={({ currentTarget: { checked } }) =>
                  set({ order: { ...order, descending: checked } })
                }
              />
            )}
          </>
        )}
      </Phrase>
      ;{' '}
      <Phrase
        says={find.counterpart ? 'the pair is remembered' : 'the pair is not remembered'}
        label={`Whether ${alias} is remembered as the counterpart`}
        width={300}
      >
        <Checkbox
          label="Remember the pair"
          description="Looks among the remembered pairs first, by the conditions only then, and remembers what it matched."
          checked={find.counterpart ?? false}
          onChange={({ currentTarget: { checked } }) =>
            checked ? set({ counterpart: true }) : drop('counterpart')
          }
        />
      </Phrase>
      .
    </span>
  );
}
