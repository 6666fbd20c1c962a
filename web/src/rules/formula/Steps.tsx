import { print, toReported, type Chain, type ExplainedChain, type Scope } from '@vast-knot/core';
import { useMay } from '../../frame/useMay';
import { ReportedValue } from '../../parts/ReportedValue';
import { AddStep } from './AddStep';
import { Painted } from './FormulaText';
import { StepChip } from './StepChip';
import { withStep } from './stepEdits';

interface StepsProps {
  readonly chain: Chain;
  /** The values of the present sample; absent without one, or while the formula has a mistake. */
  readonly explained: ExplainedChain | undefined;
  readonly scope: Scope | undefined;
  readonly onChange: (formula: string) => void;
}

/** A formula as the steps that its value goes through, each with what it gives for the present sample. */
export function Steps({ chain, explained, scope, onChange }: StepsProps) {
  const mayChange = useMay('rules.edit');
  // Steps are explained from the last one backwards; what lies before them has no value of its own.
  const hidden = explained ? chain.steps.length - explained.steps.length : 0;
  return (
    <ol className="step-list" aria-label="Steps of the formula">
      <li>
        <span className="chip source">
          <Painted formula={print(chain.source)} />
        </span>
        {explained && hidden === 0 && (
          <div className="step-value">
            <ReportedValue reported={toReported(explained.source.value)} />
          </div>
        )}
      </li>
      {chain.steps.map((step, at) => {
        const value = explained?.steps[at - hidden]?.value;
        return (
          <li key={at}>
            <StepChip chain={chain} step={step} at={at} onChange={onChange} />
            {value !== undefined && (
              <div className="step-value">
                <ReportedValue reported={toReported(value)} />
              </div>
            )}
          </li>
        );
      })}
      {mayChange && (
        <li>
          <AddStep onAdd={(name) => onChange(withStep(chain, name, scope))} />
        </li>
      )}
    </ol>
  );
}
