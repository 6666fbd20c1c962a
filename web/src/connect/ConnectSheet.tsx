import { useMemo } from 'react';
import { leafFields, type HttpConnection } from '@vast-knot/core';
import { ConnectHead } from './ConnectHead';
import { Changes } from './clauses/Changes';
import { Listing } from './clauses/Listing';
import { System } from './clauses/System';
import { Told } from './clauses/Told';
import { Writing } from './clauses/writing/Writing';
import { ExchangePane } from './exchange/ExchangePane';
import { HttpExchange } from './exchange/HttpExchange';
import { HttpTypes } from './HttpTypes';
import { LearnFields } from './LearnFields';
import { styleIn } from './styleEdits';
import { TypeSheet } from './TypeSheet';
import { useSheet, type SheetProps } from './useSheet';

/** The sheet of a connection over HTTP: prose to edit on the left, the real exchange at the right. */
export function ConnectSheet(props: SheetProps<HttpConnection>) {
  const { parts, type, isTaken, choose, tries, mayTry, findings } = useSheet(props);
  const { draft, view } = parts;
  const name = type?.name ?? '';
  const style = useMemo(() => styleIn(draft.body, name), [draft.body, name]);
  return (
    <div className="split connect-beside">
      <div className="sheet">
        <ConnectHead view={view} draft={draft} findings={findings} />
        <System {...parts} />
        <Told {...parts} />
        <HttpTypes {...parts} at={name} choose={choose} />
        <TypeSheet type={type} isTaken={isTaken} choose={choose}>
          {(at) => (
            <>
              <Listing {...parts} type={at} style={style} />
              <Writing {...parts} type={at} style={style} />
              <Changes {...parts} type={at} style={style} />
              {leafFields(at.fields).length < 2 && (
                <LearnFields draft={draft} type={at} tried={tries.tried} />
              )}
            </>
          )}
        </TypeSheet>
      </div>
      <ExchangePane
        type={type}
        tries={tries}
        mayTry={mayTry}
        can={{ find: style.list.filter.kind !== 'none', change: style.changing !== undefined }}
        isSomewhere={draft.body.connection.baseUrl !== ''}
      >
        {(exchange, sentence, isList) => (
          <HttpExchange key={exchange.at} {...{ draft, type, style, exchange, sentence, isList }} />
        )}
      </ExchangePane>
    </div>
  );
}
