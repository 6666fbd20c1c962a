import type { ReactNode } from 'react';
import { parseJson, type ExchangeView, type Json } from '@vast-knot/core';
import { JsonTree } from './JsonTree';
import { count } from './time';
import './wire.css';

interface WireProps {
  readonly exchange: ExchangeView;
  /** What is shown for a body that is JSON; a tree to look at, unless it says so. */
  readonly answer?: (body: Json) => ReactNode;
}

/** A request and its answer, as they went over the wire. */
export function WireExchange({ exchange, answer = (body) => <JsonTree json={body} /> }: WireProps) {
  const body = jsonIn(exchange);
  return (
    <div className="wire">
      <div className="wire-line mono">
        <b>{exchange.method}</b> {exchange.url}
      </div>
      {exchange.statement !== undefined && (
        <pre className="wire-body mono" tabIndex={0}>
          {exchange.statement}
        </pre>
      )}
      <Headers headers={exchange.requestHeaders} />
      {exchange.requestBody !== '' && (
        <pre className="wire-body mono" tabIndex={0}>
          {exchange.requestBody.slice(0, 4000)}
        </pre>
      )}
      <div className="wire-line mono">
        <b>{answered(exchange)}</b> <span className="dim">in {exchange.milliseconds} ms</span>
      </div>
      <Headers headers={exchange.answerHeaders} />
      {body === undefined ? (
        <pre className="wire-body mono" tabIndex={0}>
          {exchange.answerBody.slice(0, 4000)}
        </pre>
      ) : (
        answer(body)
      )}
    </div>
  );
}

/** Returns how an exchange was answered: by a status, or with rows. */
export function answered({ status, rows, problem }: ExchangeView): string {
  if (rows !== undefined) return count(rows, 'row');
  return status === null ? (problem === '' ? 'no answer' : 'refused') : String(status);
}

function Headers({ headers }: { readonly headers: Readonly<Record<string, string>> }) {
  const all = Object.entries(headers);
  if (all.length === 0) return null;
  return (
    <details className="small wire-headers">
      <summary>{all.length} headers</summary>
      {all.map(([name, value]) => (
        <div key={name} className="mono breaks">
          {name}: {value}
        </div>
      ))}
    </details>
  );
}

/** Returns the body of an answer as JSON; undefined for what is cut off, or none. */
export function jsonIn({ answerBody }: ExchangeView): Json | undefined {
  try {
    return answerBody === '' ? undefined : parseJson(answerBody);
  } catch {
    // It is shown as text then.
    return undefined;
  }
}
