import { useMemo } from 'react';
import { useParams } from 'react-router';
import { isDatabaseDraft, isHttpDraft, type DraftView, type SystemView } from '@vast-knot/core';
import { useConnectionDraftView, useSystems } from '../api/queries';
import { Failure, Loading } from '../parts/states';
import { ConnectSheet } from './ConnectSheet';
import { DatabaseSheet } from './database/DatabaseSheet';
import { FieldsSheet } from './fields/FieldsSheet';
import { narrowed } from './narrowed';
import { useConnectionDraft } from './useConnectionDraft';
import '../parts/lines.css';
import './connect.css';

/** A connection that is being written: fetches what its sheets are made of. */
export function ConnectPage() {
  const { draft: id = '', part } = useParams();
  const draft = useConnectionDraftView(id);
  const systems = useSystems();
  if (draft.isError) return <Failure error={draft.error} again={() => void draft.refetch()} />;
  if (!draft.data || !systems.data) return <Loading />;
  return <Sheets key={id} view={draft.data} systems={systems.data} part={part} />;
}

interface SheetsProps {
  readonly view: DraftView;
  readonly systems: readonly SystemView[];
  readonly part: string | undefined;
}

/** Both sheets work on one draft, so that undo reaches over both. */
function Sheets({ view, systems, part }: SheetsProps) {
  const draft = useConnectionDraft(view);
  const http = useMemo(() => narrowed(draft, isHttpDraft), [draft]);
  const database = useMemo(() => narrowed(draft, isDatabaseDraft), [draft]);
  if (part === 'fields') return <FieldsSheet view={view} draft={draft} />;
  if (database) return <DatabaseSheet view={view} draft={database} systems={systems} />;
  return http && <ConnectSheet view={view} draft={http} systems={systems} />;
}
