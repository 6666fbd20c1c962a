import { useMemo } from 'react';
import { changeToJsonPatch, writePath, type JsonObject, type RecordChange } from '@vast-knot/core';
import { Copy } from '../parts/Copy';
import type { OutcomeRecord } from './outcomeRecord';

/** A record's documents, before and after, and the change as a JSON Patch (RFC 6902). */
export function Documents({ record }: { readonly record: OutcomeRecord }) {
  const { before, edits, creates, removes, ref } = record;
  const { after, patch } = useMemo(() => {
    const made = edits.reduce<JsonObject>(
      (document, edit) => writePath(document, edit.path, edit.after ?? null),
      creates ? {} : before,
    );
    const change: RecordChange = removes
      ? { kind: 'remove', ref, record: before }
      : creates
        ? { kind: 'create', ref, record: made }
        : { kind: 'edit', ref, edits };
    return { after: removes ? undefined : made, patch: changeToJsonPatch(change) };
  }, [before, edits, creates, removes, ref]);
  return (
    <div className="documents">
      <Document title="Before" json={creates ? undefined : before} />
      <Document title="After" json={after} />
      <Document title="JSON Patch" json={patch} />
    </div>
  );
}

function Document({ title, json }: { readonly title: string; readonly json: unknown }) {
  const text = json === undefined ? '' : JSON.stringify(json, null, 2);
  return (
    <section aria-label={title}>
      <h4>
        {title} {text !== '' && <Copy text={text} what={title.toLowerCase()} />}
      </h4>
      {text === '' ? <p className="dim small">There is no record.</p> : <pre className="mono">{text}</pre>}
    </section>
  );
}
