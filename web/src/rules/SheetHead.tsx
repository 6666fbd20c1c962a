import { Button } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useDeferredValue, useMemo } from 'react';
import { Link } from 'react-router';
import { sameRule, type Finding, type RuleView } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys } from '../api/queries';
import { count } from '../parts/time';
import { RulePause } from '../pauses/RulePause';
import { AfterPublishing } from '../reconcile/AfterPublishing';
import { FindingsList } from './findings/FindingsList';
import { PublishEffects } from './PublishEffects';
import { SheetActions } from './SheetActions';
import { SheetName } from './SheetName';
import type { Draft } from './useDraft';

interface SheetHeadProps {
  readonly rule: RuleView;
  readonly draft: Draft;
  readonly findings: readonly Finding[];
  /** Whether the findings are those of the draft as it stands. */
  readonly current: boolean;
  /** Why there are no findings yet. */
  readonly unchecked: string | undefined;
  readonly goTo: (line: string) => void;
  readonly showKeys: () => void;
}

/** The rule's name, how it stands, undo and redo, and what puts the draft in force. */
export function SheetHead({ rule, draft, findings, current, unchecked, goTo, showKeys }: SheetHeadProps) {
  const client = useQueryClient();
  const done = (view: RuleView) => {
    client.setQueryData(keys.rule(rule.id), view);
    void client.invalidateQueries({ queryKey: keys.rules, exact: true });
  };
  const publish = useMutation({
    mutationFn: async () =>
      ask<RuleView>(`/rules/${rule.id}/publish`, { method: 'POST', ifMatch: await draft.settle() }),
    onSuccess: done,
  });
  const withdraw = useMutation({
    mutationFn: () => ask<RuleView>(`/rules/${rule.id}/published`, { method: 'DELETE' }),
    onSuccess: done,
  });
  const errors = findings.filter(({ severity }) => severity === 'error').length;
  const warnings = findings.filter(({ severity }) => severity === 'warning').length;
  const published = rule.published?.body;
  // What publishing would mean follows a moment later; a key need not wait for it.
  const body = useDeferredValue(draft.body);
  const same = useMemo(() => published !== undefined && sameRule(published, body), [published, body]);
  return (
    <header className="sheet-head">
      <SheetName
        name={draft.body.name}
        note={draft.body.note}
        version={rule.published?.version}
        same={same}
        saving={draft.saving}
        edit={draft.edit}
      >
        <SheetActions
          undo={draft.undo}
          redo={draft.redo}
          showKeys={showKeys}
          publishLabel={warnings > 0 && !same ? `Publish with ${count(warnings, 'warning')}` : 'Publish'}
          publishable={errors === 0 && !same && current}
          publishing={publish.isPending}
          onPublish={publish.mutate}
          runs={rule.published !== null}
          withdrawing={withdraw.isPending}
          onWithdraw={withdraw.mutate}
        />
      </SheetName>
      <div className="standing">
        {unchecked === undefined ? (
          <FindingsList findings={findings} goTo={goTo} />
        ) : (
          <span className="small dim">{unchecked}</span>
        )}
        {errors > 0 && (
          <span className="value wrong">{count(errors, 'error')} to mend before this can be published.</span>
        )}
        <RulePause rule={rule} />
        <Link to={`/reconcile?rule=${rule.id}`} className="small">
          Beside the records that exist
        </Link>
        <Link to={`/rules/${rule.id}/take-back`} className="small">
          Take back what it wrote
        </Link>
      </div>
      <PublishEffects rule={rule} body={body} />
      {publish.isSuccess && rule.published && same && (
        <AfterPublishing
          key={rule.published.version}
          rule={rule.id}
          version={rule.published.version}
          system={body.trigger.system}
          recordType={body.trigger.recordType}
        />
      )}
      {publish.isError && (
        <div className="note wrong" role="alert">
          {sentenceOf(publish.error)}
        </div>
      )}
      {(draft.saving === 'failed' || draft.saving === 'conflict') && (
        <div className="note wrong" role="alert">
          The draft is not saved: {draft.problem}{' '}
          {draft.saving === 'conflict' && (
            <Button variant="subtle" color="rust" onClick={() => window.location.reload()}>
              Load it again
            </Button>
          )}
        </div>
      )}
    </header>
  );
}
