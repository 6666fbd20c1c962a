import { useCallback, useMemo, useRef } from 'react';
import { useSearchParams } from 'react-router';
import type {
  Report,
  RuleBody,
  RuleView,
  StoredRecord,
  SystemView,
  TableView,
  WriteAction,
} from '@vast-knot/core';
import { useSample, useSamples } from '../api/queries';
import type { ReplayInput } from '../bench/replay';
import { useReplay } from '../bench/useReplay';
import { Finds } from './Finds';
import { FormulaBox, insertInto } from './FormulaBox';
import { Ledger, type Reached } from './Ledger';
import { findMistakes, withoutBrokenLines, withoutConditions } from './preview';
import { SamplePane } from './SamplePane';
import { SheetHead } from './SheetHead';
import { useDraft } from './useDraft';
import { useSheetKeys } from './useSheetKeys';
import { When } from './When';

interface RuleSheetProps {
  readonly rule: RuleView;
  readonly systems: readonly SystemView[];
  readonly tables: readonly TableView[];
}

/** A rule as a page of prose with live figures: When … only if … find … then write, beside it the present sample. */
export function RuleSheet({ rule, systems, tables }: RuleSheetProps) {
  const draft = useDraft(rule);
  const { body, edit } = draft;
  const mistakes = useMemo(() => findMistakes(body, systems, tables), [body, systems, tables]);
  const [params, setParams] = useSearchParams();
  const samples = (useSamples().data ?? []).filter(
    ({ ref }) => ref.system === body.trigger.system && ref.recordType === body.trigger.recordType,
  );
  const wanted = params.get('sample');
  const sampleId = samples.some(({ id }) => id === wanted) ? (wanted ?? undefined) : samples[0]?.id;
  const sample = useSample(sampleId).data;
  const present = sampleId === undefined ? undefined : sample;

  const input = useMemo<ReplayInput | undefined>(() => {
    if (!present) return undefined;
    const asEdited = { ...withoutBrokenLines(body, mistakes), id: rule.id, version: 0 };
    return { systems, tables, rules: [asEdited], sample: present };
  }, [present, body, mistakes, systems, tables, rule.id]);
  const answer = useReplay(input);
  const forced = useReplay(
    useMemo(() => input && { ...input, rules: input.rules.map(withoutConditions) }, [input]),
  );
  const reportNow = input && answer.data?.report.rules.find(({ depth }) => depth === 0);
  const forcedReport = input ? forced.data?.report : undefined;
  const findSteps =
    forcedReport?.rules.find(({ depth }) => depth === 0)?.steps.filter((step) => step.kind === 'find') ?? [];

  const box = useRef<HTMLTextAreaElement>(null);
  const onFocus = useCallback((focused: HTMLTextAreaElement) => void (box.current = focused), []);
  const onUse = (path: string) => box.current && insertInto(box.current, path);
  useSheetKeys(draft.undo, draft.redo);

  const type = systems
    .find(({ key }) => key === body.trigger.system)
    ?.recordTypes.find(({ name }) => name === body.trigger.recordType);
  const setAction = (at: number, change: (action: WriteAction) => WriteAction) =>
    edit((known) => ({
      ...known,
      actions: known.actions.map((action, index) => (index === at ? change(action) : action)),
    }));
  const targets = [
    { value: 'record', label: `the ${type?.label.toLowerCase() ?? 'record'} itself` },
    ...body.finds.map((find) => ({
      value: find.alias,
      label: `${find.several === 'each' ? 'each' : 'the'} ${find.alias}`,
    })),
  ];
  return (
    <div className="split" style={{ gridTemplateColumns: 'minmax(0, 1fr) 330px' }}>
      <div className="sheet">
        <SheetHead rule={rule} draft={draft} mistakes={mistakes.size} />
        <When trigger={body.trigger} systems={systems} mistake={mistakes.get('trigger')} edit={edit} />
        <div className="clause">
          <span className="word">only if</span>
          <span>
            <FormulaBox
              value={body.guard}
              label="Only if"
              placeholder='always; or a condition, such as status = "active"'
              mistake={mistakes.get('guard')}
              onChange={(guard) => edit((known) => ({ ...known, guard }))}
              onFocus={onFocus}
            />
          </span>
        </div>
        <Finds
          body={body}
          systems={systems}
          mistakes={mistakes}
          steps={findSteps}
          edit={edit}
          onFocus={onFocus}
        />
        {body.actions.map((action, at) => {
          const target = targetOf(body, action, systems);
          return target ? (
            <Ledger
              key={at}
              place={`actions/${at}`}
              action={action}
              system={target.system}
              type={target.type}
              targets={targets}
              mistakes={mistakes}
              reached={present ? reachedBy(forcedReport, present.records, target) : []}
              setAction={(change) => setAction(at, change)}
              onFocus={onFocus}
            />
          ) : (
            <div key={at} className="note wrong">
              {mistakes.get(`actions/${at}/target`)}
            </div>
          );
        })}
      </div>
      <SamplePane
        samples={samples}
        sample={present}
        type={type}
        report={reportNow}
        choose={(id) =>
          setParams((known) => ({ ...Object.fromEntries(known), sample: id }), { replace: true })
        }
        onUse={onUse}
      />
    </div>
  );
}

type Target = { readonly system: string; readonly type: SystemView['recordTypes'][number] };

function targetOf(body: RuleBody, action: WriteAction, systems: readonly SystemView[]): Target | undefined {
  const place =
    action.target === 'record' ? body.trigger : body.finds.find(({ alias }) => alias === action.target);
  const type = systems
    .find(({ key }) => key === place?.system)
    ?.recordTypes.find(({ name }) => name === place?.recordType);
  return place && type && { system: place.system, type };
}

/** The records that a write reaches for the sample, as they are before it. */
function reachedBy(report: Report | undefined, records: readonly StoredRecord[], target: Target): Reached[] {
  const steps = report?.rules.filter(({ depth }) => depth === 0).flatMap(({ steps: all }) => all) ?? [];
  return steps.flatMap((step): Reached[] => {
    if (
      step.kind !== 'write' ||
      step.ref.system !== target.system ||
      step.ref.recordType !== target.type.name
    )
      return [];
    const stored = records.find(
      ({ ref }) =>
        ref.system === step.ref.system && ref.recordType === step.ref.recordType && ref.id === step.ref.id,
    );
    return [{ id: step.ref.id, record: stored?.record ?? {}, lines: step.lines }];
  });
}
