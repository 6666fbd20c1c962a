import { Button } from '@mantine/core';
import { useMemo, useState } from 'react';
import {
  foundSentence,
  readList,
  type ExchangeView,
  type HttpDraft,
  type Json,
  type RecordType,
  type TypeStyle,
} from '@vast-knot/core';
import { JsonTree } from '../../parts/JsonTree';
import type { SavedDraft } from '../../parts/useSavedDraft';
import { Verdict } from '../../parts/Verdict';
import { jsonIn, WireExchange } from '../../parts/WireExchange';
import { withPart } from '../styleEdits';
import { marksIn, pointingsAt, type Pointing } from './pointing';

interface ExchangeProps {
  readonly draft: SavedDraft<HttpDraft>;
  readonly type: RecordType | undefined;
  readonly style: TypeStyle;
  readonly exchange: ExchangeView;
  readonly sentence: string;
  readonly isList: boolean;
}

/** An exchange over HTTP: what the statements at the left point at is marked in it, and places are pressed to point at them. */
export function HttpExchange({ draft, type, style, exchange, sentence, isList }: ExchangeProps) {
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
  draft: HttpDraft,
  type: RecordType | undefined,
  style: TypeStyle,
  restyle: Pointing['style'],
  retype: Pointing['type'],
): HttpDraft {
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
