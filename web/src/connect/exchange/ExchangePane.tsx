import { Button, TextInput } from '@mantine/core';
import { useMemo, useState } from 'react';
import {
  foundSentence,
  readList,
  type ConnectionDraft,
  type ExchangeView,
  type Json,
  type RecordType,
  type TypeStyle,
} from '@vast-knot/core';
import { sentenceOf } from '../../api/client';
import { JsonTree } from '../../parts/JsonTree';
import { Verdict } from '../../parts/Verdict';
import { jsonIn, WireExchange } from '../../parts/WireExchange';
import type { SavedDraft } from '../../parts/useSavedDraft';
import { withPart } from '../styleEdits';
import { marksIn, pointingsAt, type Pointing } from './pointing';
import type { Tries } from './useTries';

interface PaneProps {
  readonly draft: SavedDraft<ConnectionDraft>;
  readonly type: RecordType | undefined;
  readonly style: TypeStyle;
  readonly tries: Tries;
  readonly mayTry: boolean;
}

/** The real exchange: what was asked, what came back, and what the statements at the left point at in it. */
export function ExchangePane({ draft, type, style, tries, mayTry }: PaneProps) {
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
        {type && <OneTries tries={tries} type={type} style={style} mayTry={mayTry} />}
      </div>
      {problem !== null && problem !== undefined && (
        <div className="note wrong" role="alert">
          {sentenceOf(problem)}
        </div>
      )}
      {tried === undefined && !trying && (
        <p className="dim">
          {draft.body.connection.baseUrl === ''
            ? 'Say where the system is, and what goes over the wire stands here.'
            : 'What goes over the wire stands here as soon as a statement is tried.'}
        </p>
      )}
      <div role="status">
        {tried && tried.problem !== '' && <Verdict tone="wrong">{tried.problem}</Verdict>}
      </div>
      {last && (
        <Exchange
          key={last.at}
          {...{ draft, type, style }}
          exchange={last}
          sentence={tried?.problem === '' ? tried.sentence : ''}
          isList={isList}
        />
      )}
    </aside>
  );
}

function OneTries({
  tries: { attempt, tried, trying },
  type,
  style,
  mayTry,
}: Pick<PaneProps, 'tries' | 'style' | 'mayTry'> & { readonly type: RecordType }) {
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
      {style.list.filter.kind !== 'none' && (
        <Button
          variant="default"
          size="compact-sm"
          disabled={!mayTry || shown === '' || trying}
          onClick={() => attempt({ what: 'find', type: type.name, field: type.idField, value: shown })}
        >
          Find it
        </Button>
      )}
      {style.changing && (
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

interface ExchangeProps extends Pick<PaneProps, 'draft' | 'type' | 'style'> {
  readonly exchange: ExchangeView;
  readonly sentence: string;
  readonly isList: boolean;
}

function Exchange({ draft, type, style, exchange, sentence, isList }: ExchangeProps) {
  const body = useMemo(() => jsonIn(exchange), [exchange]);
  const [at, setAt] = useState<string>();
  const pointing = isList && body !== undefined && at !== undefined ? pointingsAt(style, type, body, at) : [];
  const marks = useMemo(
    () => (isList && body !== undefined ? marksIn(style, type, body) : new Map<string, string>()),
    [isList, body, style, type],
  );
  const point = ({ style: restyle, type: retype }: Pointing) => {
    setAt(undefined);
    draft.edit((known) => pointed(known, type, style, restyle, retype));
  };
  return (
    <>
      {isList && body !== undefined && <ReadNow {...{ exchange, body, type, style, sentence }} />}
      {!isList && sentence !== '' && <Verdict tone="settled">{sentence}</Verdict>}
      <WireExchange
        exchange={exchange}
        answer={(whole) => (
          <JsonTree
            json={whole}
            marks={marks}
            press={isList ? setAt : undefined}
            at={at}
            below={
              <div className="pointings">
                {pointing.map((each) => (
                  <Button key={each.label} size="compact-xs" variant="light" onClick={() => point(each)}>
                    {each.label}
                  </Button>
                ))}
                {pointing.length === 0 && <span className="small dim">Nothing points at such a place.</span>}
              </div>
            }
          />
        )}
      />
    </>
  );
}

/** What the answer at hand holds as the statements read it now, without being asked again. */
function ReadNow({
  exchange,
  body,
  type,
  style,
  sentence,
}: Pick<ExchangeProps, 'exchange' | 'type' | 'style' | 'sentence'> & { readonly body: Json }) {
  const read = useMemo(
    () =>
      readList(
        style.list,
        { status: exchange.status ?? 0, headers: exchange.answerHeaders, body },
        { cursor: undefined, limit: 25 },
      ),
    [style.list, exchange, body],
  );
  if (exchange.status === null || exchange.status >= 300) return null;
  if (!read.ok) return <Verdict tone="wrong">The list {read.because}.</Verdict>;
  const now = foundSentence(read, type, new Date(exchange.at));
  return (
    <Verdict tone={read.records.length === 0 ? 'will' : 'settled'}>{now === '' ? sentence : now}</Verdict>
  );
}

/** Returns the draft in which a place has the meaning that was pressed. */
function pointed(
  draft: ConnectionDraft,
  type: RecordType | undefined,
  style: TypeStyle,
  restyle: Pointing['style'],
  retype: Pointing['type'],
): ConnectionDraft {
  let next = draft;
  if (retype && type)
    next = {
      ...next,
      recordTypes: next.recordTypes.map((each) => (each.name === type.name ? retype(each) : each)),
    };
  if (!restyle) return next;
  const styled = restyle(style);
  const name = type?.name ?? '';
  if (styled.list !== style.list) next = withPart(next, name, 'list', styled.list);
  if (styled.version !== style.version) next = withPart(next, name, 'version', styled.version);
  return next;
}
