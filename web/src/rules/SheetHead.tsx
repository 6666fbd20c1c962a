import { ActionIcon, Button, TextInput, Tooltip } from '@mantine/core';
import { IconArrowBackUp, IconArrowForwardUp, IconKeyboard } from '@tabler/icons-react';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { Link } from 'react-router';
import { sameRule, type Finding, type RuleView } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys } from '../api/queries';
import { useMayChange } from '../frame/useRole';
import { count } from '../parts/time';
import { FindingsList } from './findings/FindingsList';
import { Standing } from './RulesPage';
import type { Draft } from './useDraft';

interface SheetHeadProps {
  readonly rule: RuleView;
  readonly draft: Draft;
  readonly findings: readonly Finding[];
  /** Whether the findings are those of the draft as it stands. */
  readonly current: boolean;
  readonly goTo: (line: string) => void;
  readonly showKeys: () => void;
}

const savingWords = { saved: 'Saved', saving: 'Saving …', unsaved: '', conflict: '', failed: '' } as const;

/** The rule's name, how it stands, undo and redo, and what puts the draft in force. */
export function SheetHead({ rule, draft, findings, current, goTo, showKeys }: SheetHeadProps) {
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
  const errors = findings.filter(({ severity }) => severity === 'error').length;
  const warnings = findings.filter(({ severity }) => severity === 'warning').length;
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
            value !== '' && draft.edit((body) => ({ ...body, name: value }), 'name')
          }
          styles={{ input: { fontSize: 19, fontWeight: 650, height: 32 } }}
          style={{ flex: 1 }}
        />
        <Standing rule={shown} />
      </div>
      <div style={{ display: 'flex', alignItems: 'center', gap: 8 }}>
        <TextInput
          aria-label="What the rule is for"
          variant="unstyled"
          placeholder={mayChange ? 'What is this rule for?' : ''}
          value={draft.body.note}
          readOnly={!mayChange}
          maxLength={2000}
          onChange={({ currentTarget: { value } }) =>
            draft.edit((body) => ({ ...body, note: value }), 'note')
          }
          styles={{ input: { color: 'var(--mantine-color-dimmed)', height: 26, minHeight: 26 } }}
          style={{ flex: 1 }}
        />
        <span className="small dim" role="status">
          {savingWords[draft.saving]}
        </span>
        {mayChange && (
          <>
            <Tooltip label="Keys (?)">
              <ActionIcon variant="subtle" aria-label="Keys of the rule sheet" onClick={showKeys}>
                <IconKeyboard size={16} />
              </ActionIcon>
            </Tooltip>
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
              disabled={errors > 0 || same || !current}
              onClick={() => publish.mutate()}
              loading={publish.isPending}
            >
              {warnings > 0 && !same ? `Publish with ${count(warnings, 'warning')}` : 'Publish'}
            </Button>
          </>
        )}
      </div>
      <div className="standing">
        <FindingsList findings={findings} goTo={goTo} />
        {errors > 0 && (
          <span className="value wrong">{count(errors, 'error')} to mend before this can be published.</span>
        )}
      </div>
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
