import { Button, SegmentedControl, Select } from '@mantine/core';
import { memo, useMemo } from 'react';
import { fromConditions, partOf, toConditions, type Sample, type Workspace } from '@vast-knot/core';
import { useMay } from '../../frame/useMay';
import { Verdict } from '../../parts/Verdict';
import { ClauseFormula } from '../formula/ClauseFormula';
import { Phrase } from '../../parts/Phrase';
import { useSheetState, useSheetTools } from '../SheetContext';
import { ConditionTree } from './ConditionTree';
import { copyPart } from '../part/copied';
import { useVerdicts, verdictWord, type ConditionVerdict } from './useVerdicts';
import { useAddress } from '../../parts/useAddress';

interface OnlyIfProps {
  readonly guard: string;
  readonly becomesTrue: boolean;
  readonly sample: Sample | undefined;
  readonly workspace: Workspace | undefined;
}

/** The clause “only if”: the guard of the rule as a formula or as conditions, with what it says of the present sample. */
export const OnlyIf = memo(function OnlyIf({ guard, becomesTrue, sample, workspace }: OnlyIfProps) {
  const { edit, current } = useSheetTools();
  const { scopeAt } = useSheetState();
  const mayChange = useMay('rules.edit');
  const [params, put] = useAddress();
  const asConditions = params.get('guard') === 'conditions';
  const tree = useMemo(() => (asConditions ? toConditions(guard) : undefined), [asConditions, guard]);
  const scope = useMemo(() => scopeAt('guard'), [scopeAt]);
  const verdicts = useVerdicts({ tree, guard, scope, sample, workspace });
  const setGuard = (formula: string) => edit((known) => ({ ...known, guard: formula }), 'guard');
  const show = (how: string) => put({ guard: how === 'conditions' ? how : '' });
  return (
    <div className="clause">
      <span className="word">only if</span>
      <span>
        {asConditions && tree ? (
          <ConditionTree
            tree={tree}
            verdicts={verdicts}
            change={mayChange ? (next) => setGuard(fromConditions(next)) : undefined}
          />
        ) : (
          <ClauseFormula
            place="guard"
            value={guard}
            label="Only if"
            placeholder='always; or a condition, such as status = "active"'
            onChange={setGuard}
          />
        )}
        <span className="guard-foot">
          <SegmentedControl
            size="xs"
            aria-label="How the guard is shown"
            data={[
              { value: 'formula', label: 'Formula' },
              { value: 'conditions', label: 'Conditions' },
            ]}
            value={asConditions ? 'conditions' : 'formula'}
            onChange={show}
          />
          {asConditions && !tree && (
            <span className="value wrong">
              The formula has to be mended before it can be shown as conditions.
            </span>
          )}
          {mayChange && guard.trim() !== '' && (
            <Button
              variant="subtle"
              size="compact-xs"
              aria-label="Copy the guard"
              onClick={() => copyPart(partOf(current(), { of: 'guard' }), 'the guard')}
            >
              Copy
            </Button>
          )}
          {guard.trim() !== '' && (
            <>
              <Phrase
                says={becomesTrue ? 'only when it becomes true' : 'each time it holds'}
                label="When the guard lets a change pass"
              >
                <Select
                  label="The rule goes on"
                  data={[
                    { value: 'each', label: 'each time it holds' },
                    { value: 'becomes', label: 'only when it becomes true' },
                  ]}
                  value={becomesTrue ? 'becomes' : 'each'}
                  onChange={(chosen) => edit((known) => ({ ...known, becomesTrue: chosen === 'becomes' }))}
                />
              </Phrase>
              <WholeVerdict verdict={verdicts.get('')} becomesTrue={becomesTrue} />
            </>
          )}
        </span>
      </span>
    </div>
  );
});

/** What the whole guard says of the sample, before the change and after it. */
function WholeVerdict({
  verdict,
  becomesTrue,
}: {
  readonly verdict: ConditionVerdict | undefined;
  readonly becomesTrue: boolean;
}) {
  if (!verdict) return null;
  const { before, now } = verdict;
  const passes = now === true && (!becomesTrue || before !== true);
  return (
    <span className="small" role="status">
      {before !== undefined && <span className="dim">before {verdictWord(before)}, now </span>}
      <Verdict tone={now === true ? 'settled' : 'quiet'}>{verdictWord(now)}</Verdict>{' '}
      <span className="dim">{passes ? 'this sample goes on' : 'this sample stops here'}</span>
    </span>
  );
}
