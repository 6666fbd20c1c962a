import { useMemo } from 'react';
import { describeRecord, refKey, printJson } from '@vast-knot/core';
import { Copy } from '../parts/Copy';
import type { OutcomeRecord } from './outcomeRecord';

/** A record's documents, before and after, and the change as a JSON Patch (RFC 6902). */
export function Documents({ record }: { readonly record: OutcomeRecord }) {
  const { change, before, rules } = record;
  const described = useMemo(
    () => describeRecord({ key: refKey(change.ref), change, before, fields: [], rules }),
    [change, before, rules],
  );
  return (
    <div className="documents">
      <Document title="Before" json={described.before} />
      <Document title="After" json={described.after} />
      <Document title="JSON Patch" json={described.patch} />
    </div>
  );
}

function Document({ title, json }: { readonly title: string; readonly json: unknown }) {
  const text = json === null ? '' : printJson(json, 2);
  return (
    <section aria-label={title}>
      <h4>
        {title} {text !== '' && <Copy text={text} what={title.toLowerCase()} />}
      </h4>
      {text === '' ? <p className="dim small">There is no record.</p> : <pre className="mono">{text}</pre>}
    </section>
  );
}
