import { Button, Checkbox } from '@mantine/core';
import { notingEndStatements, notingStatements, type RowListening, type RowsAsked } from '@vast-knot/core';
import { Phrase } from '../../parts/Phrase';
import { Verdict } from '../../parts/Verdict';
import { Clause } from '../Clause';
import { withMember } from '../../parts/withMember';
import { Choice } from '../Inputs';
import { AskedTimes, ComparedForm } from '../ListeningForms';
import type { Tries } from '../exchange/useTries';
import type { RowParts } from './rowParts';
import { listeningWords, withTable } from './tableEdits';

interface ChangesProps extends RowParts {
  readonly tries: Tries;
  readonly mayTry: boolean;
}

/** How changes of rows are learnt: asked for by a column, found by comparing, or noted by a trigger. */
export function RowChanges(props: ChangesProps) {
  const { draft, because, found, type, style } = props;
  const listening = style.listening ?? {};
  const set = (next: RowListening) =>
    draft.edit((body) => withTable(body, type.name, (known) => ({ ...known, listening: next })), 'listening');
  const nothing = !listening.asked && !listening.compared && listening.noted !== true;
  return (
    <Clause
      word="Its changes"
      reasons={because(type.name, 'listening')}
      findings={found(`connection/recordTypes/${type.name}/listening`)}
    >
      are{' '}
      <Phrase
        right="systems.change"
        width={400}
        label="How changes are learnt"
        says={listeningWords(listening)}
      >
        <Forms {...props} listening={listening} set={set} />
      </Phrase>
      .
      {nothing && (
        <div className="small">
          <Verdict tone="will">
            Nothing tells of changes: rules on {type.plural} start only once a night.
          </Verdict>
        </div>
      )}
      {listening.asked && !listening.compared && listening.noted !== true && (
        <div className="small dim">Rows that are removed are found at night.</div>
      )}
      {listening.noted && <Trigger {...props} />}
    </Clause>
  );
}

function Forms({
  type,
  listening,
  set,
}: RowParts & { readonly listening: RowListening; readonly set: (next: RowListening) => void }) {
  const { asked, noted } = listening;
  const times = type.fields.filter(
    ({ type: kind }) => kind === 'datetime' || kind === 'integer' || kind === 'date',
  );
  const first = times.find(({ keptBySystem }) => keptBySystem) ?? times[0];
  const put = (next: RowsAsked | undefined) => set(withMember(listening, 'asked', next));
  return (
    <>
      <Checkbox
        label="Asked for by the column of the last change"
        disabled={!first}
        checked={asked !== undefined}
        onChange={(event) =>
          put(
            event.currentTarget.checked && first
              ? { field: first.name, overlapSeconds: 60, everySeconds: 60 }
              : undefined,
          )
        }
        mb={8}
      />
      {asked && (
        <div className="indented">
          <Choice
            label="Column"
            value={asked.field}
            options={times.map(({ name, label }) => ({ value: name, label: `${label} (${name})` }))}
            onChange={(field) => put({ ...asked, field })}
          />
          <AskedTimes asked={asked} set={put} />
        </div>
      )}
      <ComparedForm listening={listening} set={set} />
      <Checkbox
        label="Noted by a trigger in the database"
        description="It is put in only when you press it; its SQL is shown."
        checked={noted ?? false}
        onChange={(event) =>
          set(withMember(listening, 'noted', event.currentTarget.checked ? true : undefined))
        }
      />
    </>
  );
}

/** The statements of the trigger, and what puts it in or takes it out. */
function Trigger({ draft, type, style, tries, mayTry }: ChangesProps) {
  const { user } = draft.body.connection;
  const put = (what: 'note' | 'note no more') => tries.attempt({ what, type: type.name });
  return (
    <details className="small" open>
      <summary>What is to be put into the database</summary>
      <pre
        className="wire-body mono"
        tabIndex={0}
      >{`${notingStatements(style, { key: type.idField, user }).join(';\n')};`}</pre>
      <div className="secret-line">
        <Button
          variant="default"
          size="compact-sm"
          color="ember"
          disabled={!mayTry || tries.trying}
          onClick={() => put('note')}
        >
          Put the trigger in
        </Button>
        <Button
          variant="default"
          size="compact-sm"
          disabled={!mayTry || tries.trying}
          onClick={() => put('note no more')}
        >
          Take it out
        </Button>
        <span className="dim">
          Its user has to be allowed to; or somebody who is runs it. It ends with{' '}
          <span className="mono">{notingEndStatements(style)[0]}</span>.
        </span>
      </div>
    </details>
  );
}
