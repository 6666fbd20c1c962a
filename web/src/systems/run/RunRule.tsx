import { Button } from '@mantine/core';
import { useState } from 'react';
import type { RecordRef, RecordType, RuleView } from '@vast-knot/core';
import { useRules } from '../../api/queries';
import { useMay } from '../../frame/useMay';
import { RunRuleForm } from './RunRuleForm';

/** The rules that a person may run on a record, and the one that is being run. */
export function RunRule({ type, recordRef }: { readonly type: RecordType; readonly recordRef: RecordRef }) {
  const rules = (useRules().data ?? []).filter(({ published }) => fits(published, type, recordRef));
  const mayRun = useMay('rules.request');
  const [running, setRunning] = useState<string>();
  const rule = rules.find(({ id }) => id === running);
  if (rules.length === 0) return null;
  return (
    <>
      <div className="run-rules" role="group" aria-label="Rules to run on this record">
        <span className="small dim">
          {mayRun ? 'Run on' : 'What would be done to'} this {type.label.toLowerCase()}:
        </span>
        {rules.map(({ id, published }) => (
          <Button
            key={id}
            size="compact-sm"
            variant={id === running ? 'filled' : 'default'}
            aria-expanded={id === running}
            onClick={() => setRunning(id === running ? undefined : id)}
          >
            {published?.body.name}
          </Button>
        ))}
      </div>
      {rule?.published && (
        <RunRuleForm
          key={rule.id}
          id={rule.id}
          body={rule.published.body}
          recordRef={recordRef}
          onClose={() => setRunning(undefined)}
        />
      )}
    </>
  );
}

function fits(published: RuleView['published'], type: RecordType, { system }: RecordRef): boolean {
  const trigger = published?.body.trigger;
  return (
    trigger !== undefined &&
    trigger.kinds.includes('requested') &&
    trigger.system === system &&
    trigger.recordType === type.name
  );
}
