import { Button } from '@mantine/core';
import { memo } from 'react';
import {
  explainChain,
  explainForReport,
  runLines,
  type CompiledLine,
  type Json,
  type LeafField,
  type LineReport,
  type MappingLine,
  type Scope,
} from '@vast-knot/core';
import { useMay } from '../../frame/useMay';
import { Explained } from '../../parts/ReportedValue';
import { Steps } from '../formula/Steps';
import { chainOf } from '../formula/stepEdits';
import type { LiveAction } from '../live/useLive';
import { useSheetTools } from '../SheetContext';
import type { RowActions } from './LedgerRow';
import { PolicyChoice } from './PolicyChoice';
import { ReferenceKey } from './ReferenceKey';

interface LineDetailProps {
  readonly scope: Scope | undefined;
  readonly leaf: LeafField;
  readonly line: MappingLine;
  /** Undefined while the line has a mistake. */
  readonly compiled: CompiledLine | undefined;
  readonly live: LiveAction | undefined;
  readonly report: LineReport | undefined;
  readonly set: (change: Partial<MappingLine>) => void;
  readonly setReference: (reference: MappingLine['reference']) => void;
  readonly rowActions: RowActions;
}

/** The line at hand, opened below its row: its steps with their values, when it is written, what its key names. */
export function LineDetail(props: LineDetailProps) {
  const { scope, leaf, line, compiled, live, report, set, setReference, rowActions } = props;
  const { surroundings } = useSheetTools();
  const chain = chainOf(line.formula);
  const explained = compiled && live ? explainChain(compiled.compiled, live.env) : undefined;
  // A formula of one name says nothing more when its parts are listed.
  const tree = compiled?.compiled.tree;
  const parts = tree && live && tree.children.length > 0 && explainForReport(compiled.compiled, live.env);
  return (
    <div className="line-detail">
      <div>
        {chain && (
          <Steps chain={chain} explained={explained} scope={scope} onChange={(formula) => set({ formula })} />
        )}
        {leaf.field.type === 'reference' && (
          <ReferenceKey
            definition={leaf.field}
            catalog={surroundings.catalog}
            reference={line.reference}
            onChange={setReference}
          />
        )}
        {parts && (
          <details className="small">
            <summary>The value of every part</summary>
            <Explained part={parts} />
          </details>
        )}
      </div>
      <div>
        <PolicyChoice
          field={leaf.field}
          policy={line.policy}
          values={compiled && live && report && policyValues(compiled, live, report)}
          onChange={(policy) => set({ policy })}
        />
        <LineActions field={leaf.path} rowActions={rowActions} />
      </div>
    </div>
  );
}

const LineActions = memo(function LineActions({
  field,
  rowActions,
}: {
  readonly field: string;
  readonly rowActions: RowActions;
}) {
  const mayChange = useMay('rules.edit');
  return (
    <div className="side-by-side">
      {mayChange && (
        // Before the other one, which moves what stands behind it under the pointer.
        <Button variant="subtle" color="rust" onClick={() => rowActions.remove(field)}>
          Remove
        </Button>
      )}
      <Button variant="subtle" onClick={() => rowActions.showMany(field)}>
        Over many records
      </Button>
    </div>
  );
});

/** Returns what the formula gives without any policy, beside what is there. */
function policyValues(
  compiled: CompiledLine,
  live: LiveAction,
  report: LineReport,
): { readonly given: Json; readonly held: Json } | undefined {
  // A key has been looked up already; what it led to stands in the report.
  const [free] = compiled.reference
    ? [report]
    : runLines([{ ...compiled, policy: 'always' }], live.target, live).reports;
  return free && 'json' in free.value && free.verdict !== 'error'
    ? { given: free.value.json, held: free.before }
    : undefined;
}
