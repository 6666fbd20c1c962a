import { useQueryClient } from '@tanstack/react-query';
import { useMemo } from 'react';
import { useNavigate } from 'react-router';
import type { RuleBody, RuleView } from '@vast-knot/core';
import { keys } from '../api/queries';
import { useSavedDraft, type SavedDraft } from '../parts/useSavedDraft';

export type Draft = SavedDraft<RuleBody>;

const sent = (body: RuleBody) => body;
const draftOf = (view: RuleView) => view.draft;

/** Tells the page that the sheet at hand is that of the rule that was just made. */
export const justMade = 'just made';

/** Where a rule is made, once it says something. */
const made = { path: '/rules', then: ({ id }: RuleView) => `/rules/${id}/draft` } as const;

/** The draft of a rule. A new one is kept from its first edit on, and then has an address of its own. */
export function useDraft({ id, draft, revision }: RuleView): Draft {
  const client = useQueryClient();
  const navigate = useNavigate();
  const queryKey = useMemo(() => keys.rule(id), [id]);
  return useSavedDraft<RuleBody, RuleView>({
    start: { body: draft, revision },
    path: `/rules/${id}/draft`,
    sent,
    queryKey,
    made,
    again: { path: `/rules/${id}`, body: draftOf, by: ({ changedBy }) => changedBy ?? 'Somebody else' },
    onSaved: (view) => {
      if (view.id !== id) {
        client.setQueryData(keys.rule(view.id), view);
        void navigate(`/rules/${view.id}${window.location.search}`, { replace: true, state: justMade });
      }
      void client.invalidateQueries({ queryKey: keys.rules, exact: true });
    },
  });
}
