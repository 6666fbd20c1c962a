import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import type { ArrivalView, FileSettings, Layout, LayoutLine, TaggedStep } from '@vast-knot/core';
import { ApiProblem, ask, sentenceOf } from '../api/client';
import { keys } from '../api/queries';
import type { TypePlace } from '../parts/RecordTypeSelect';

/** How a file is laid out, as somebody edits it. */
export interface LayoutDraft {
  readonly place: TypePlace | undefined;
  readonly file: FileSettings | null;
  readonly lines: readonly LayoutLine[];
  /** What is done to each record before; of a file of tagged records alone. */
  readonly tidy: readonly TaggedStep[];
}

/** Saved so long after the last key. */
const restMs = 500;

/** The layout of a file as it is edited: kept a moment after the last key, and told where somebody else was first. */
export function useLayoutDraft(view: ArrivalView) {
  const client = useQueryClient();
  const [draft, setDraft] = useState<LayoutDraft>(() => draftOf(view));
  const [unsaved, setUnsaved] = useState(false);
  const revision = useRef(view.revision);
  const save = useMutation({
    scope: { id: `layout ${view.id}` },
    mutationFn: ({ place, file, lines, tidy, usual }: LayoutDraft & { readonly usual?: boolean }) =>
      ask<ArrivalView>(`/arrivals/${view.id}/layout`, {
        method: 'PUT',
        ifMatch: revision.current,
        body: {
          system: place?.system ?? null,
          recordType: place?.recordType ?? null,
          layout: { file, lines, ...(tidy.length > 0 && { tidy }) } satisfies { file: unknown } & Pick<
            Layout,
            'lines' | 'tidy'
          >,
          usual,
        },
      }),
    onSuccess: (saved) => {
      revision.current = saved.revision;
      client.setQueryData(keys.arrival(view.id), saved);
    },
  });
  const { mutate } = save;
  useEffect(() => {
    if (!unsaved || draft.file === null) return;
    const timer = setTimeout(() => {
      setUnsaved(false);
      mutate(draft);
    }, restMs);
    return () => clearTimeout(timer);
  }, [unsaved, draft, mutate]);
  const change = (next: Partial<LayoutDraft>) => {
    setDraft((known) => ({ ...known, ...next }));
    setUnsaved(true);
  };
  const isConflict = save.error instanceof ApiProblem && save.error.problem.status === 412;
  return {
    draft,
    change,
    /** Says where the value of a field comes from. */
    setFrom: (field: string, from: string) =>
      change({
        lines: draft.lines.some((line) => line.field === field)
          ? draft.lines.map((line) => (line.field === field ? { field, from } : line))
          : [...draft.lines, { field, from }],
      }),
    /** Keeps it as that of all files of its kind. */
    keepAsUsual: () => mutate({ ...draft, usual: true }),
    saving: unsaved || save.isPending,
    failure: save.error && sentenceOf(save.error),
    isConflict,
    /** Takes what somebody else made of it. */
    takeTheirs: async () => {
      const theirs = await client.fetchQuery({
        queryKey: keys.arrival(view.id),
        queryFn: () => ask<ArrivalView>(`/arrivals/${view.id}`),
        staleTime: 0,
      });
      revision.current = theirs.revision;
      setDraft(draftOf(theirs));
      setUnsaved(false);
      save.reset();
    },
  };
}

function draftOf({ system, recordType, layout, head }: ArrivalView): LayoutDraft {
  return {
    place: system !== null && recordType !== null ? { system, recordType } : undefined,
    file: layout?.file ?? head.file,
    lines: layout?.lines ?? [],
    tidy: layout?.tidy ?? [],
  };
}
