import type { DatabaseConnection } from '@vast-knot/core';
import { Verdict } from '../../parts/Verdict';
import { WireExchange } from '../../parts/WireExchange';
import { Identity } from '../clauses/Identity';
import { ConnectHead } from '../ConnectHead';
import { ExchangePane } from '../exchange/ExchangePane';
import { Types } from '../Types';
import { TypeSheet } from '../TypeSheet';
import { useSheet, type SheetProps } from '../useSheet';
import { Line } from './Line';
import { RowChanges } from './RowChanges';
import { Rows } from './Rows';
import { RowWriting } from './RowWriting';

/** The sheet of a connection to a database: what is said of its tables at the left, the statements that were sent at the right. */
export function DatabaseSheet(props: SheetProps<DatabaseConnection>) {
  const { parts, type, isTaken, choose, tries, mayTry, findings } = useSheet(props);
  const { draft, view } = parts;
  const { connection } = draft.body;
  const style = type && connection.recordTypes[type.name];
  return (
    <div className="split connect-beside">
      <div className="sheet">
        <ConnectHead view={view} draft={draft} findings={findings} />
        <Identity {...parts} />
        <Line {...parts} />
        <Types
          {...parts}
          at={type?.name ?? ''}
          choose={choose}
          where={{ head: 'Table or view', cell: ({ name }) => <TableName of={connection} name={name} /> }}
        />
        <TypeSheet type={type} isTaken={isTaken} choose={choose}>
          {(at) =>
            style && (
              <>
                <Rows {...parts} type={at} style={style} />
                <RowWriting {...parts} type={at} style={style} />
                <RowChanges {...parts} type={at} style={style} tries={tries} mayTry={mayTry} />
              </>
            )
          }
        </TypeSheet>
      </div>
      <ExchangePane
        type={type}
        tries={tries}
        mayTry={mayTry}
        can={{ find: true, change: style?.writes.includes('change') ?? false }}
        isSomewhere={connection.baseUrl !== ''}
      >
        {(exchange, sentence) => (
          <>
            {sentence !== '' && <Verdict tone="settled">{sentence}</Verdict>}
            {tries.tried?.exchanges.map((each) => (
              <WireExchange key={`${each.at}${each.statement ?? ''}`} exchange={each} />
            )) ?? <WireExchange exchange={exchange} />}
          </>
        )}
      </ExchangePane>
    </div>
  );
}

function TableName({ of, name }: { readonly of: DatabaseConnection; readonly name: string }) {
  const { schema = '', table = '' } = of.recordTypes[name] ?? {};
  return (
    <span className="mono">
      {schema}.{table}
    </span>
  );
}
