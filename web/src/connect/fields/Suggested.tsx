import { Button } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import {
  suggestSensitivity,
  type RecordPage,
  type RecordType,
  type SensitivitySuggested,
} from '@vast-knot/core';
import { ask } from '../../api/client';
import { keys } from '../../api/queries';
import { count } from '../../parts/time';

interface SuggestedProps {
  readonly type: RecordType;
  /** The system that the draft changes, whose records are looked at; null while there is none. */
  readonly system: string | null;
  readonly mark: (suggested: readonly SensitivitySuggested[]) => void;
}

/** So many records of a connected system are looked at. */
const looked = 50;

/** Fields that look personal or secret, each with its reason, to be confirmed or not. */
export function Suggested({ type, system, mark }: SuggestedProps) {
  const records = useQuery({
    queryKey: keys.recordList(system ?? '', type.name, 'sensitivity'),
    queryFn: () =>
      ask<RecordPage>(`/records/${system ?? ''}/${encodeURIComponent(type.name)}?limit=${looked}`),
    enabled: system !== null,
    retry: false,
    staleTime: Infinity,
  }).data?.records;
  const [not, setNot] = useState<ReadonlySet<string>>(new Set());
  const suggested = useMemo(
    () =>
      suggestSensitivity(
        type,
        (records ?? []).map(({ record }) => record),
      ),
    [type, records],
  );
  const open = suggested.filter(({ path }) => !not.has(`${type.name} ${path}`));
  if (open.length === 0) return null;
  return (
    <details className="note" open={open.length <= 4}>
      <summary>
        {count(open.length, 'field')} {open.length === 1 ? 'looks' : 'look'} personal or secret, and{' '}
        {open.length === 1 ? 'is' : 'are'} not marked
      </summary>
      <ul className="plain-list">
        {open.map((each) => (
          <li key={each.path}>
            <code>{each.path}</code> {each.because}{' '}
            <Button size="compact-xs" variant="light" onClick={() => mark([each])}>
              It is {each.sensitivity}
            </Button>{' '}
            <Button
              size="compact-xs"
              variant="subtle"
              onClick={() => setNot(new Set([...not, `${type.name} ${each.path}`]))}
            >
              It is not
            </Button>
          </li>
        ))}
      </ul>
      {open.length > 1 && (
        <Button size="compact-sm" variant="default" mt={6} onClick={() => mark(open)}>
          Mark all {open.length} as they look
        </Button>
      )}
    </details>
  );
}
