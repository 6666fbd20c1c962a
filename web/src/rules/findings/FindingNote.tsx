import { Button } from '@mantine/core';
import { IconAlertTriangle, IconInfoCircle, IconXboxX } from '@tabler/icons-react';
import { Link } from 'react-router';
import type { Finding, Severity } from '@vast-knot/core';
import { useMay } from '../../frame/useMay';
import { count } from '../../parts/time';

const marks = { error: IconXboxX, warning: IconAlertTriangle, note: IconInfoCircle } as const;
const severityWords: Readonly<Record<Severity, string>> = {
  error: 'Error',
  warning: 'Warning',
  note: 'Note',
};

/** “3 warnings”, with their mark. */
export function SeverityCount({
  severity,
  number,
}: {
  readonly severity: Severity;
  readonly number: number;
}) {
  const Mark = marks[severity];
  return (
    <span className={`severity is-${severity}`}>
      <Mark size={14} aria-hidden /> {count(number, severityWords[severity].toLowerCase())}
    </span>
  );
}

interface FindingNoteProps {
  readonly finding: Finding;
  readonly onFix: (finding: Finding) => void;
  readonly id?: string;
}

/** A finding where it belongs: how grave, what it says, and its fix to press. */
export function FindingNote({ finding, onFix, id }: FindingNoteProps) {
  const mayChange = useMay('rules.edit');
  const Mark = marks[finding.severity];
  return (
    <div className={`finding is-${finding.severity}`} id={id}>
      <Mark size={14} aria-label={severityWords[finding.severity]} />
      <span>{finding.message}</span>
      {finding.fix && mayChange && (
        <Button variant="light" size="compact-xs" onClick={() => onFix(finding)}>
          {finding.fix.label}
        </Button>
      )}
      {finding.table !== undefined && (
        <Link to={`/tables/${encodeURIComponent(finding.table)}?tab=coverage`} className="small">
          Open the table
        </Link>
      )}
    </div>
  );
}

/** All findings of one place. */
export function FindingNotes({
  findings,
  onFix,
  id,
}: {
  readonly findings: readonly Finding[];
  readonly onFix: (finding: Finding) => void;
  readonly id?: string;
}) {
  if (findings.length === 0) return null;
  return (
    <div className="findings" id={id} role="status">
      {findings.map((finding, at) => (
        <FindingNote key={`${finding.kind}/${at}`} finding={finding} onFix={onFix} />
      ))}
    </div>
  );
}
