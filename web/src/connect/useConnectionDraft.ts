import { useQueryClient } from '@tanstack/react-query';
import { useMemo } from 'react';
import type { ConnectionDraft, DraftView } from '@vast-knot/core';
import { keys } from '../api/queries';
import { useSavedDraft, type SavedDraft } from '../parts/useSavedDraft';

const sent = (draft: ConnectionDraft) => ({ draft });

/** The draft of a connection. */
export function useConnectionDraft({ id, draft, revision }: DraftView): SavedDraft<ConnectionDraft> {
  const client = useQueryClient();
  const queryKey = useMemo(() => keys.draft(id), [id]);
  return useSavedDraft<ConnectionDraft, DraftView>({
    start: { body: draft, revision },
    path: `/connections/drafts/${id}`,
    sent,
    queryKey,
    again: {
      path: `/connections/drafts/${id}`,
      body: (view) => view.draft,
      by: ({ changedBy }) => changedBy,
    },
    onSaved: () => void client.invalidateQueries({ queryKey: keys.drafts, exact: true }),
  });
}
