import { Button } from '@mantine/core';
import { useState } from 'react';
import { linesIn, parsePlace, type Finding, type RuleBody } from '@vast-knot/core';
import { parseLineKey, printLineKey } from '../lineKey';
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
                    {parseLineKey(line).field}
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

/** Returns the line that a finding is about, as `0/contactPhone`. */
export function lineOf({ at }: Finding, body: RuleBody): string | undefined {
  const place = parsePlace(at);
  if (place.of !== 'line') return undefined;
  const field = linesIn(body.actions[place.at])[place.line]?.field;
  return field === undefined ? undefined : printLineKey({ action: place.at, field });
}

function placeWords(at: string): string {
  const { of } = parsePlace(at);
  if (of === 'trigger') return 'When';
  if (at === 'guard') return 'only if';
  return of === 'find' ? 'find' : 'then';
}
