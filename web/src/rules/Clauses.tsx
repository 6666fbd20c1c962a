import { useMemo } from 'react';
import type { Finding, RuleBody, Sample, SystemView } from '@vast-knot/core';
import { Finds } from './finds/Finds';
import { OnlyIf } from './guard/OnlyIf';
import type { LiveReach } from './live/useReach';
import { findingsAt } from './SheetContext';
import { When } from './When';

interface ClausesProps {
  readonly body: RuleBody;
  readonly findings: readonly Finding[];
  readonly systems: readonly SystemView[];
  /** What the finds gave for the present sample. */
  readonly reach: LiveReach;
  readonly sample: Sample | undefined;
}

/** What stands before the ledger: when … only if … find … */
export function Clauses({ body, findings, systems, reach, sample }: ClausesProps) {
  const aboutTrigger = useMemo(() => findingsAt(findings, 'trigger'), [findings]);
  const aboutFinds = useMemo(() => findingsAt(findings, 'finds'), [findings]);
  const steps = useMemo(
    () => reach.reach?.report.steps.filter((step) => step.kind === 'find') ?? [],
    [reach],
  );
  return (
    <>
      <When trigger={body.trigger} systems={systems} findings={aboutTrigger} />
      <OnlyIf
        guard={body.guard}
        becomesTrue={body.becomesTrue ?? false}
        sample={sample}
        workspace={reach.workspace}
      />
      <Finds trigger={body.trigger} finds={body.finds} findings={aboutFinds} steps={steps} />
    </>
  );
}
