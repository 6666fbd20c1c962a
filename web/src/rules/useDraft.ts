import { useQueryClient } from '@tanstack/react-query';
import { useMemo } from 'react';
import type { RuleBody, RuleView } from '@vast-knot/core';
import { keys } from '../api/queries';
import { useSavedDraft, type SavedDraft } from '../parts/useSavedDraft';

export type Draft = SavedDraft<RuleBody>;

const sent = (body: RuleBody) => body;

/** The draft of a rule. */
export function useDraft({ id, draft, revision }: RuleView): Draft {
  const client = useQueryClient();
  const queryKey = useMemo(() => keys.rule(id), [id]);
  return useSavedDraft<RuleBody, RuleView>({
    start: { body: draft, revision },
    path: `/rules/${id}/draft`,
    sent,
    queryKey,
    onSaved: () => void client.invalidateQueries({ queryKey: keys.rules, exact: true }),
  });
}
