import { Button } from '@mantine/core';
import { useState } from 'react';
import { noRecord, type RecordRef, type RecordType, type RuleView } from '@vast-knot/core';
import { useRules } from '../../api/queries';
import { useMay } from '../../frame/useMay';
import { RunRuleForm } from './RunRuleForm';

/** The rules that a person may run on a record, or once for all of a type, and the one that is being run. */
export function RunRule({ type, recordRef }: { readonly type: RecordType; readonly recordRef: RecordRef }) {
  const rules = (useRules().data ?? []).filter(({ published }) => fits(published, type, recordRef));
  const mayRun = useMay('rules.request');
  const [running, setRunning] = useState<string>();
  const rule = rules.find(({ id }) => id === running);
  if (rules.length === 0) return null;
  return (
    <>
      <div
        className="run-rules"
        role="group"
        aria-label={`Rules to run ${recordRef.id === noRecord ? 'once for all' : 'on this record'}`}
      >
        <span className="small dim">
          {mayRun ? 'Run ' : 'What would be done '}
          {recordRef.id === noRecord ? 'once for all ' : mayRun ? 'on this ' : 'to this '}
          {(recordRef.id === noRecord ? type.plural : type.label).toLowerCase()}:
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

function fits(published: RuleView['published'], type: RecordType, { system, id }: RecordRef): boolean {
  const trigger = published?.body.trigger;
  return (
    trigger !== undefined &&
    trigger.kinds.includes('requested') &&
    (trigger.once === true) === (id === noRecord) &&
    trigger.system === system &&
    trigger.recordType === type.name
  );
}
