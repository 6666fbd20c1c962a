import { ActionIcon, Button, TextInput, Tooltip } from '@mantine/core';
import { IconArrowBackUp, IconArrowForwardUp } from '@tabler/icons-react';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { Link } from 'react-router';
import { sameRule, type RuleView } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys } from '../api/queries';
import { useMayChange } from '../frame/useRole';
import { count } from '../parts/time';
import { Standing } from './RulesPage';
import type { Draft } from './useDraft';

interface SheetHeadProps {
  readonly rule: RuleView;
  readonly draft: Draft;
  readonly mistakes: number;
}

const savingWords = { saved: 'Saved', saving: 'Saving …', unsaved: '', conflict: '', failed: '' } as const;

/** The rule's name, how it stands, undo and redo, and what puts the draft in force. */
export function SheetHead({ rule, draft, mistakes }: SheetHeadProps) {
  const client = useQueryClient();
  const mayChange = useMayChange();
  const shown = { ...rule, draft: draft.body };
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
  const same = rule.published !== null && sameRule(rule.published.body, draft.body);
  return (
    <header style={{ marginBottom: 8 }}>
      <div className="page-head" style={{ alignItems: 'center', flexWrap: 'nowrap' }}>
        <Link to="/rules" aria-label="All rules">
          Rules
        </Link>
        <TextInput
          aria-label="Name of the rule"
          variant="unstyled"
          value={draft.body.name}
          readOnly={!mayChange}
          maxLength={120}
          onChange={({ currentTarget: { value } }) =>
            value !== '' && draft.edit((body) => ({ ...body, name: value }))
          }
          styles={{ input: { fontSize: 19, fontWeight: 650, height: 32 } }}
          style={{ flex: 1 }}
        />
        <Standing rule={shown} />
      </div>
      <div style={{ display: 'flex', alignItems: 'center', gap: 8 }}>
        <span className="dim" style={{ flex: 1 }}>
          {draft.body.note}
        </span>
        <span className="small dim" role="status">
          {savingWords[draft.saving]}
        </span>
        {mayChange && (
          <>
            <Tooltip label="Undo (Ctrl+Z)">
              <ActionIcon variant="subtle" aria-label="Undo" disabled={!draft.undo} onClick={draft.undo}>
                <IconArrowBackUp size={16} />
              </ActionIcon>
            </Tooltip>
            <Tooltip label="Redo (Ctrl+Shift+Z)">
              <ActionIcon variant="subtle" aria-label="Redo" disabled={!draft.redo} onClick={draft.redo}>
                <IconArrowForwardUp size={16} />
              </ActionIcon>
            </Tooltip>
            {rule.published && (
              <Button variant="subtle" onClick={() => withdraw.mutate()} loading={withdraw.isPending}>
                Stop running
              </Button>
            )}
            <Button
              color="ember"
              disabled={mistakes > 0 || same}
              onClick={() => publish.mutate()}
              loading={publish.isPending}
            >
              Publish
            </Button>
          </>
        )}
      </div>
      {mistakes > 0 && (
        <p className="value wrong" style={{ margin: '4px 0' }}>
          {count(mistakes, 'mistake')} to mend before this can be published.
        </p>
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
