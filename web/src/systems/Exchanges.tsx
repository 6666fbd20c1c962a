import { Button, SegmentedControl, TextInput } from '@mantine/core';
import { useState } from 'react';
import type { ExchangeView, SystemView } from '@vast-knot/core';
import { useExchanges, useMessagesOf } from '../api/queries';
import { Empty, Failure, Loading } from '../parts/states';
import { shortTime } from '../parts/time';
import { useAddress } from '../parts/useAddress';
import { Verdict } from '../parts/Verdict';
import { answered, WireExchange } from '../parts/WireExchange';

const sides = [
  { value: 'asked', label: 'What we asked' },
  { value: 'told', label: 'What it told' },
] as const;

/** What went over the wire lately between us and a system: the newest hundred requests, and its last messages, for a day. */
export function Exchanges({ system }: { readonly system: SystemView }) {
  const [params, put] = useAddress();
  const side = params.get('of') === 'told' ? 'told' : 'asked';
  return (
    <section aria-label={`Exchanges with ${system.name}`}>
      <SegmentedControl
        aria-label="Who began"
        size="xs"
        value={side}
        data={sides.map((each) => ({ ...each }))}
        onChange={(of) => put({ of: of === 'told' ? of : '' })}
        mb={8}
      />
      {side === 'told' ? <Told system={system} /> : <Asked system={system} />}
    </section>
  );
}

function Asked({ system }: { readonly system: SystemView }) {
  return (
    <List
      exchanges={useExchanges(system.key)}
      empty="Nothing went over the wire in the last day"
      says="The newest hundred, for a day. Secrets and sensitive fields are left out."
    />
  );
}

function Told({ system }: { readonly system: SystemView }) {
  return (
    <List
      exchanges={useMessagesOf(system.key)}
      empty="No message came in the last day"
      says="The last five that were taken, and the last five that were not, as they came."
    />
  );
}

interface ListProps {
  readonly exchanges: ReturnType<typeof useExchanges>;
  readonly empty: string;
  readonly says: string;
}

function List({ exchanges, empty, says }: ListProps) {
  const [params, put] = useAddress();
  const [open, setOpen] = useState<string>();
  const wanted = params.get('search') ?? '';
  if (exchanges.isPending) return <Loading />;
  if (exchanges.isError) return <Failure error={exchanges.error} again={() => void exchanges.refetch()} />;
  if (exchanges.data.length === 0)
    return <Empty title={empty}>What goes over the wire stands here within seconds.</Empty>;
  const shown = exchanges.data.filter((each) =>
    JSON.stringify(each).toLowerCase().includes(wanted.toLowerCase()),
  );
  return (
    <>
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
        <span className="small dim">{says}</span>
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
    </>
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
