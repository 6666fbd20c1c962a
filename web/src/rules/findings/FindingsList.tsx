import { Button } from '@mantine/core';
import { useState } from 'react';
import { linesIn, type Finding, type RuleBody } from '@vast-knot/core';
import { count } from '../../parts/time';
import { Verdict } from '../../parts/Verdict';
import { useSheetState, useSheetTools } from '../SheetContext';
import { FindingNote, SeverityCount } from './FindingNote';

/** How many findings there are, and all of them on demand, each with the way to its place. */
export function FindingsList({
  findings,
  goTo,
}: {
  readonly findings: readonly Finding[];
  readonly goTo: (line: string) => void;
}) {
  const { fix } = useSheetTools();
  const { body } = useSheetState();
  const [open, setOpen] = useState(false);
  if (findings.length === 0) return <Verdict tone="settled">no findings</Verdict>;
  return (
    <>
      <button
        type="button"
        className="phrase severities"
        aria-expanded={open}
        aria-label={`${count(findings.length, 'finding')}, ${open ? 'hide' : 'show'} all`}
        onClick={() => setOpen(!open)}
      >
        {(['error', 'warning', 'note'] as const).map((severity) => {
          const number = findings.filter((finding) => finding.severity === severity).length;
          return number === 0 ? null : <SeverityCount key={severity} severity={severity} number={number} />;
        })}
      </button>
      {open && (
        <div className="all-findings boxed" role="region" aria-label="All findings">
          {findings.map((finding, at) => {
            const line = lineOf(finding, body);
            return (
              <div key={at} className="placed">
                {line === undefined ? (
                  <span className="small dim">{placeWords(finding.at)}</span>
                ) : (
                  <Button variant="subtle" size="compact-xs" onClick={() => goTo(line)}>
                    {line.slice(line.indexOf('/') + 1)}
                  </Button>
                )}
                <FindingNote finding={finding} onFix={fix} />
              </div>
            );
          })}
        </div>
      )}
    </>
  );
}

/** The line that a finding is about, as `0/contactPhone`. */
export function lineOf({ at }: Finding, body: RuleBody): string | undefined {
  const [part, action, lines, line] = at.split('/');
  if (part !== 'actions' || lines !== 'lines') return undefined;
  const field = linesIn(body.actions[Number(action)])[Number(line)]?.field;
  return field === undefined ? undefined : `${action ?? ''}/${field}`;
}

function placeWords(at: string): string {
  if (at.startsWith('trigger')) return 'When';
  if (at === 'guard') return 'only if';
  return at.startsWith('finds') ? 'find' : 'then';
}
