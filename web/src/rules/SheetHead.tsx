import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useDeferredValue, useMemo, useState } from 'react';
import { Link } from 'react-router';
import { sameRule, type Finding, type RuleView } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys } from '../api/queries';
import { AlsoHere } from '../parts/AlsoHere';
import { TheirDraft } from '../parts/TheirDraft';
import { Differences } from './versions/Differences';
import { count } from '../parts/time';
import { tell } from '../parts/toast';
import { useAddress } from '../parts/useAddress';
import { RulePause } from '../pauses/RulePause';
import { AfterPublishing } from '../reconcile/AfterPublishing';
import { FindingsList } from './findings/FindingsList';
import { PublishEffects } from './PublishEffects';
import { SheetActions } from './SheetActions';
import { SheetName } from './SheetName';
import type { Draft } from './useDraft';
import { PublishPanel, StopPanel } from './versions/PublishPanel';

interface SheetHeadProps {
  readonly rule: RuleView;
  readonly draft: Draft;
  readonly findings: readonly Finding[];
  /** Whether the findings are those of the draft as it stands. */
  readonly current: boolean;
  /** Why there are no findings yet. */
  readonly unchecked: string | undefined;
  readonly goTo: (line: string) => void;
}

/** The rule's name, how it stands, undo and redo, and what puts the draft in force. */
export function SheetHead({ rule, draft, findings, current, unchecked, goTo }: SheetHeadProps) {
  const client = useQueryClient();
  /** What is asked before the press counts. */
  const [params, put] = useAddress();
  const [asks, setAsks] = useState<'publish' | 'stop' | undefined>(
    params.get('ask') === 'publish' ? 'publish' : undefined,
  );
  const close = () => {
    setAsks(undefined);
    put({ ask: '' });
  };
  const done = (view: RuleView) => {
    close();
    client.setQueryData(keys.rule(rule.id), view);
    void client.invalidateQueries({ queryKey: keys.ruleHistory(rule.id) });
    void client.invalidateQueries({ queryKey: keys.rules, exact: true });
  };
  const publish = useMutation({
    mutationFn: async (note: string) =>
      ask<RuleView>(`/rules/${rule.id}/publish`, {
        method: 'POST',
        body: { note },
        ifMatch: await draft.settle(),
      }),
    onSuccess: (view) => {
      done(view);
      if (view.asked) tell('Somebody else who may publish is asked to. Until then it stays as it was.');
    },
  });
  const withdraw = useMutation({
    mutationFn: (why: string) =>
      ask<RuleView>(`/rules/${rule.id}/published?${new URLSearchParams({ why })}`, { method: 'DELETE' }),
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
          publishLabel={warnings > 0 && !same ? `Publish with ${count(warnings, 'warning')}` : 'Publish'}
          publishable={errors === 0 && !same && current && rule.revision > 0}
          publishing={publish.isPending}
          onPublish={() => setAsks(asks === 'publish' ? undefined : 'publish')}
          runs={rule.published !== null}
          withdrawing={withdraw.isPending}
          onWithdraw={() => setAsks(asks === 'stop' ? undefined : 'stop')}
          asks={asks}
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
        {rule.revision > 0 && <AlsoHere kind="rule" of={rule.id} />}
        {rule.asked && (
          <span className="value will">
            {rule.asked.by} asks for this to be published
            {rule.asked.note === '' ? '' : `: ${rule.asked.note}`}
          </span>
        )}
        {rule.revision > 0 && (
          <>
            <Link to={`/rules/${rule.id}/versions`} className="small">
              Versions
            </Link>
            <Link to={`/reconcile?rule=${rule.id}`} className="small">
              Beside the records that exist
            </Link>
            <Link to={`/rules/${rule.id}/take-back`} className="small">
              Take back what it wrote
            </Link>
          </>
        )}
      </div>
      {asks === 'publish' && (
        <PublishPanel
          rule={rule}
          body={body}
          publishing={publish.isPending}
          publish={publish.mutate}
          close={close}
        />
      )}
      {asks === 'stop' && (
        <StopPanel rule={rule} stopping={withdraw.isPending} stop={withdraw.mutate} close={close} />
      )}
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
      {withdraw.isError && (
        <div className="note wrong" role="alert">
          {sentenceOf(withdraw.error)}
        </div>
      )}
      {publish.isError && (
        <div className="note wrong" role="alert">
          {sentenceOf(publish.error)}
        </div>
      )}
      {(draft.saving === 'failed' || (draft.saving === 'conflict' && !draft.theirs)) && (
        <div className="note wrong" role="alert">
          The draft is not saved: {draft.problem}
        </div>
      )}
      {draft.theirs && (
        <TheirDraft what="this rule" theirs={draft.theirs}>
          <Differences
            before={draft.theirs.body}
            after={draft.body}
            names={['Theirs, as it is now', 'Yours']}
          />
        </TheirDraft>
      )}
    </header>
  );
}
