import { Button, TextInput } from '@mantine/core';
import { useState, type ReactNode } from 'react';
import type { ExchangeView, RecordType } from '@vast-knot/core';
import { sentenceOf } from '../../api/client';
import { Verdict } from '../../parts/Verdict';
import type { Tries } from './useTries';

/** What can be tried with one record. */
export interface CanTry {
  readonly find: boolean;
  readonly change: boolean;
}

interface PaneProps {
  readonly type: RecordType | undefined;
  readonly tries: Tries;
  readonly mayTry: boolean;
  readonly can: CanTry;
  /** The system has an address already. */
  readonly isSomewhere: boolean;
  /** Shows an exchange, with what was found in it where that could be said. */
  readonly children: (exchange: ExchangeView, sentence: string, isList: boolean) => ReactNode;
}

/** The real exchange: what was asked, what came back, and what the statements at the left point at in it. */
export function ExchangePane({ type, tries, mayTry, can, isSomewhere, children }: PaneProps) {
  const { asked, tried, trying, problem, attempt } = tries;
  const last = tried?.exchanges.at(-1);
  const isList = asked?.what === 'list' || asked?.what === 'since';
  return (
    <aside className="exchange-pane" aria-label="The exchange with the system">
      <div className="exchange-tries">
        <Button
          variant="default"
          size="compact-sm"
          disabled={!mayTry || !type}
          loading={trying}
          onClick={() => type && attempt({ what: 'list', type: type.name })}
        >
          Try the list
        </Button>
        {tried?.next && type && isList && (
          <Button
            variant="default"
            size="compact-sm"
            disabled={trying}
            onClick={() => attempt({ what: 'list', type: type.name, cursor: tried.next ?? '' })}
          >
            Next page
          </Button>
        )}
        {type && <OneTries tries={tries} type={type} can={can} mayTry={mayTry} />}
      </div>
      {problem !== null && problem !== undefined && (
        <div className="note wrong" role="alert">
          {sentenceOf(problem)}
        </div>
      )}
      {tried === undefined && !trying && (
        <p className="dim">
          {isSomewhere
            ? 'What goes over the wire stands here as soon as a statement is tried.'
            : 'Say where the system is, and what goes over the wire stands here.'}
        </p>
      )}
      <div role="status">
        {tried && tried.problem !== '' && <Verdict tone="wrong">{tried.problem}</Verdict>}
      </div>
      {last && children(last, tried?.problem === '' ? tried.sentence : '', isList)}
    </aside>
  );
}

function OneTries({
  tries: { attempt, tried, trying },
  type,
  can,
  mayTry,
}: Pick<PaneProps, 'tries' | 'can' | 'mayTry'> & { readonly type: RecordType }) {
  const [id, setId] = useState('');
  const shown = id === '' ? (tried?.ids[0] ?? '') : id;
  return (
    <>
      <TextInput
        aria-label="Id of a record to try with"
        size="xs"
        placeholder="an id"
        value={shown}
        onChange={(event) => setId(event.currentTarget.value)}
        w={120}
        classNames={{ input: 'mono' }}
      />
      <Button
        variant="default"
        size="compact-sm"
        disabled={!mayTry || shown === '' || trying}
        onClick={() => attempt({ what: 'one', type: type.name, id: shown })}
      >
        Read it
      </Button>
      {can.find && (
        <Button
          variant="default"
          size="compact-sm"
          disabled={!mayTry || shown === '' || trying}
          onClick={() => attempt({ what: 'find', type: type.name, field: type.idField, value: shown })}
        >
          Find it
        </Button>
      )}
      {can.change && (
        <Button
          variant="default"
          size="compact-sm"
          color="ember"
          disabled={!mayTry || shown === '' || trying}
          onClick={() => attempt({ what: 'write back', type: type.name, id: shown, field: type.nameField })}
        >
          Write its {type.nameField} back as it is
        </Button>
      )}
    </>
  );
}
