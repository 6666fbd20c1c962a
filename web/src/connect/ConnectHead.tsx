import { ActionIcon, Button, TextInput, Tooltip } from '@mantine/core';
import { IconArrowBackUp, IconArrowForwardUp } from '@tabler/icons-react';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { Link, useNavigate } from 'react-router';
import type { ConnectionDraft, DraftFinding, DraftView, SheetConnection } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys } from '../api/queries';
import { useMay } from '../frame/useMay';
import { AlsoHere } from '../parts/AlsoHere';
import { BothAsJson } from '../parts/BothAsJson';
import { TheirDraft } from '../parts/TheirDraft';
import { hueOf } from '../parts/SystemTag';
import { count } from '../parts/time';
import { useKeys } from '../parts/useKeys';
import type { SavedDraft } from '../parts/useSavedDraft';
import { Verdict } from '../parts/Verdict';

const savingWords = { saved: 'Saved', saving: 'Saving …', unsaved: '', conflict: '', failed: '' } as const;

interface HeadProps<C extends SheetConnection> {
  readonly view: DraftView;
  readonly draft: SavedDraft<ConnectionDraft<C>>;
  readonly findings: readonly DraftFinding[];
}

/** What the system is called, how its draft stands, and what puts it to work. */
export function ConnectHead<C extends SheetConnection>({ view, draft, findings }: HeadProps<C>) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const mayChange = useMay('systems.change');
  const { system, origin } = draft.body;
  const start = useMutation({
    mutationFn: async () =>
      ask<{ key: string }>(`/connections/drafts/${view.id}/start`, {
        method: 'POST',
        ifMatch: await draft.settle(),
      }),
    onSuccess: async ({ key }) => {
      await client.invalidateQueries({ queryKey: keys.systems });
      void client.invalidateQueries({ queryKey: keys.drafts });
      await navigate(`/systems/${key}`);
    },
  });
  const [first] = findings;
  return (
    <header className="sheet-head">
      <div className="page-head name-line">
        <Link to="/systems/connect">Connect a system</Link>
        <span className="tag" style={hueOf(system.hue)}>
          {system.tag}
        </span>
        <TextInput
          aria-label="Name of the system"
          variant="unstyled"
          value={system.name}
          readOnly={!mayChange}
          maxLength={80}
          onChange={(event) => {
            const name = event.currentTarget.value;
            draft.edit((body) => ({ ...body, system: { ...body.system, name } }), 'name');
          }}
          styles={{ input: { fontSize: 19, fontWeight: 650, height: 32 } }}
          className="grows"
        />
      </div>
      <div className="side-by-side">
        <span className="small dim grows">{origin}</span>
        {view.system !== null && <AlsoHere kind="system" of={view.system} />}
        <span className="small dim" role="status">
          {savingWords[draft.saving]}
        </span>
        {mayChange && (
          <>
            <Steps draft={draft} />
            <Button
              color="ember"
              disabled={findings.length > 0}
              loading={start.isPending}
              onClick={() => start.mutate()}
            >
              {view.system === null ? 'Start listening' : 'Put it to work'}
            </Button>
          </>
        )}
      </div>
      {first && (
        <div className="small">
          <Verdict tone="will">
            {count(findings.length, 'thing')} to do before it can start: {first.message}
          </Verdict>
        </div>
      )}
      {start.isError && (
        <div className="note wrong" role="alert">
          {sentenceOf(start.error)}
        </div>
      )}
      {(draft.saving === 'failed' || (draft.saving === 'conflict' && !draft.theirs)) && (
        <div className="note wrong" role="alert">
          The draft is not saved: {draft.problem}
        </div>
      )}
      {draft.theirs && (
        <TheirDraft what="this connection" theirs={draft.theirs}>
          <BothAsJson theirs={draft.theirs.body} mine={draft.body} />
        </TheirDraft>
      )}
    </header>
  );
}

/** Undo and redo. */
export function Steps({
  draft: { undo, redo },
}: {
  readonly draft: Pick<SavedDraft<unknown>, 'undo' | 'redo'>;
}) {
  useKeys((event) => {
    if (!(event.ctrlKey || event.metaKey) || event.altKey) return undefined;
    const key = event.key.toLowerCase();
    if (key === 'z') return event.shiftKey ? redo : undo;
    return key === 'y' ? redo : undefined;
  });
  return (
    <>
      <Tooltip label="Undo (Ctrl+Z)">
        <ActionIcon variant="subtle" aria-label="Undo" disabled={!undo} onClick={() => undo?.()}>
          <IconArrowBackUp size={16} />
        </ActionIcon>
      </Tooltip>
      <Tooltip label="Redo (Ctrl+Shift+Z)">
        <ActionIcon variant="subtle" aria-label="Redo" disabled={!redo} onClick={() => redo?.()}>
          <IconArrowForwardUp size={16} />
        </ActionIcon>
      </Tooltip>
    </>
  );
}
