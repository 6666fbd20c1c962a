import { Button, TextInput } from '@mantine/core';
import { useState } from 'react';
import type { ExchangeView, SystemView } from '@vast-knot/core';
import { useExchanges } from '../api/queries';
import { Empty, Failure, Loading } from '../parts/states';
import { shortTime } from '../parts/time';
import { useAddress } from '../parts/useAddress';
import { Verdict } from '../parts/Verdict';
import { answered, WireExchange } from '../parts/WireExchange';

/** What went over the wire lately between us and a system: the newest hundred, for a day. */
export function Exchanges({ system }: { readonly system: SystemView }) {
  const exchanges = useExchanges(system.key);
  const [params, put] = useAddress();
  const [open, setOpen] = useState<string>();
  const wanted = params.get('search') ?? '';
  if (exchanges.isPending) return <Loading />;
  if (exchanges.isError) return <Failure error={exchanges.error} again={() => void exchanges.refetch()} />;
  if (exchanges.data.length === 0)
    return (
      <Empty title="Nothing went over the wire in the last day">
        Requests and answers stand here within seconds.
      </Empty>
    );
  const shown = exchanges.data.filter((each) =>
    JSON.stringify(each).toLowerCase().includes(wanted.toLowerCase()),
  );
  return (
    <section aria-label={`Exchanges with ${system.name}`}>
      <div className="side-by-side">
        <TextInput
          aria-label="Look for"
          placeholder="An address, a status, a value"
          value={wanted}
          onChange={(event) => put({ search: event.currentTarget.value })}
          w={300}
        />
        <Button variant="default" onClick={() => void exchanges.refetch()}>
          Look again
        </Button>
        <span className="small dim">
          The newest hundred, for a day. Secrets and sensitive fields are left out.
        </span>
      </div>
      <table className="grid boxed exchanges">
        <thead>
          <tr>
            <th className="of14">When</th>
            <th>Request</th>
            <th className="of14">Answer</th>
            <th className="of12">Took</th>
          </tr>
        </thead>
        <tbody>
          {shown.map((each, at) => (
            <Row
              key={`${each.at}${at}`}
              exchange={each}
              open={open === `${each.at}${at}`}
              toggle={(on) => setOpen(on ? `${each.at}${at}` : undefined)}
            />
          ))}
        </tbody>
      </table>
      {shown.length === 0 && <p className="dim">None of them has “{wanted}” in it.</p>}
    </section>
  );
}

/** Longer statements are shown whole when they are opened. */
const firstLine = (statement: string) =>
  statement.length > 160 ? `${statement.slice(0, 160)} …` : statement;

interface RowProps {
  readonly exchange: ExchangeView;
  readonly open: boolean;
  readonly toggle: (on: boolean) => void;
}

function Row({ exchange, open, toggle }: RowProps) {
  const { at, method, url, statement, status, rows, milliseconds, problem } = exchange;
  const wrong = (status === null ? rows === undefined : status >= 400) || problem !== '';
  return (
    <>
      <tr>
        <td className="nowrap">{shortTime(at)}</td>
        <td className="mono breaks">
          <button type="button" className="link-like" aria-expanded={open} onClick={() => toggle(!open)}>
            <b>{method}</b> {statement === undefined ? url : firstLine(statement)}
          </button>
        </td>
        <td>{wrong ? <Verdict tone="wrong">{answered(exchange)}</Verdict> : answered(exchange)}</td>
        <td>{milliseconds} ms</td>
      </tr>
      {open && (
        <tr>
          <td colSpan={4}>
            {problem !== '' && <Verdict tone="wrong">{problem}</Verdict>}
            <WireExchange exchange={exchange} />
          </td>
        </tr>
      )}
    </>
  );
}
