import { useMemo } from 'react';
import type { Finding, Reach, RuleBody, SystemView } from '@vast-knot/core';
import { Finds } from './finds/Finds';
import { OnlyIf } from './OnlyIf';
import { findingsAt } from './SheetContext';
import { When } from './When';

interface ClausesProps {
  readonly body: RuleBody;
  readonly findings: readonly Finding[];
  readonly systems: readonly SystemView[];
  /** What the finds gave for the present sample. */
  readonly reach: Reach | undefined;
}

/** What stands before the ledger: when … only if … find … */
export function Clauses({ body, findings, systems, reach }: ClausesProps) {
  const aboutTrigger = useMemo(() => findingsAt(findings, 'trigger'), [findings]);
  const aboutFinds = useMemo(() => findingsAt(findings, 'finds'), [findings]);
  const steps = useMemo(() => reach?.report.steps.filter((step) => step.kind === 'find') ?? [], [reach]);
  return (
    <>
      <When trigger={body.trigger} systems={systems} findings={aboutTrigger} />
      <OnlyIf guard={body.guard} />
      <Finds trigger={body.trigger} finds={body.finds} findings={aboutFinds} steps={steps} />
    </>
  );
}
