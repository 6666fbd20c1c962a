import { Button } from '@mantine/core';
import { useMutation } from '@tanstack/react-query';
import { useEffect, useMemo, useState } from 'react';
import {
  eventAsIf,
  writePath,
  type Json,
  type RecordType,
  type RecordView,
  type Sample,
} from '@vast-knot/core';
import { sentenceOf } from '../../api/client';
import { useKnown, useRules } from '../../api/queries';
import { JudgedOutcome } from '../../bench/JudgedOutcome';
import { recordsMet } from '../../bench/keepSample';
import { RuleReports } from '../../bench/RuleReports';
import { publishedOf } from '../../bench/rulesAgainst';
import { Loading } from '../../parts/states';
import { useWork } from '../../work/useWork';

interface WouldHappenProps {
  readonly type: RecordType;
  readonly view: RecordView;
  /** What the person is about to change. */
  readonly set: Readonly<Record<string, Json>>;
  readonly onClose: () => void;
}

/** What the published rules would do if a record were changed as it is typed: computed here, over the records that they would meet. */
export function WouldHappen({ type, view, set, onClose }: WouldHappenProps) {
  const { known, error } = useKnown();
  const rules = useRules().data;
  // What was typed when it was asked for: what is typed since is asked for anew.
  const [event] = useState(() => {
    const after = Object.entries(set).reduce(
      (made, [path, json]) => writePath(made, path, json),
      view.record,
    );
    return eventAsIf(
      view.ref,
      type,
      { kind: 'updated', record: after, before: view.record },
      { id: crypto.randomUUID(), time: new Date().toISOString() },
    );
  });
  const meet = useMutation({
    mutationFn: () => recordsMet(event),
  });
  const { mutate, data: records } = meet;
  useEffect(() => mutate(), [mutate]);
  const input = useMemo(() => {
    if (!records || !rules) return undefined;
    const sample: Sample = { id: event.id, name: '', note: '', event, records };
    return { rules: publishedOf(rules), sample };
  }, [records, rules, event]);
  const { output, error: broken } = useWork('replay', input, known);
  const wrong = meet.error ?? error ?? broken;
  return (
    <section className="run-form boxed" aria-label="What would happen">
      <p className="flush">
        If {Object.keys(set).join(', ')} were saved like this. Nothing is saved or written.
      </p>
      {wrong !== undefined && wrong !== null ? (
        <div className="note wrong" role="alert">
          {typeof wrong === 'string' ? wrong : sentenceOf(wrong)}
        </div>
      ) : output ? (
        <div className="grows">
          <JudgedOutcome outcome={output.outcome} comparison={output.comparison} />
          <RuleReports reports={output.report.rules} />
        </div>
      ) : (
        <Loading />
      )}
      <Button variant="subtle" onClick={onClose}>
        Close
      </Button>
    </section>
  );
}
