import type { EditorView } from '@codemirror/view';
import { useCallback, useDeferredValue, useMemo, useRef, useState } from 'react';
import { useSearchParams } from 'react-router';
import {
  applyFix,
  compileRule,
  printPath,
  scopeAt,
  targetOf,
  type Finding,
  type Rule,
  type RuleView,
  type SystemView,
} from '@vast-knot/core';
import { useRules } from '../api/queries';
import { surroundingsOf, type Known } from '../work/known';
import { useWork } from '../work/useWork';
import { ColumnPane } from './column/ColumnPane';
import { DragArea } from './drag/DragArea';
import type { Dragged, DropPlace } from './drag/useLineDrag';
import { Finds } from './Finds';
import { insertInto } from './formula/FormulaEditor';
import { Keys } from './Keys';
import { Ledger } from './ledger/Ledger';
import { moveLine, setLine } from './ledger/lineEdits';
import { useLedgerView } from './ledger/useLedgerView';
import { useLive } from './live/useLive';
import { OnlyIf } from './OnlyIf';
import { SamplePane } from './SamplePane';
import { SheetProvider, type Sheet } from './SheetContext';
import { SheetHead } from './SheetHead';
import { useDraft } from './useDraft';
import { useRuleSamples } from './useRuleSamples';
import { useSheetKeys } from './useSheetKeys';
import { When } from './When';

interface RuleSheetProps {
  readonly rule: RuleView;
  readonly systems: readonly SystemView[];
  readonly known: Known;
}

const noFindings: readonly Finding[] = [];

/** A rule as a page of prose with live figures: When … only if … find … then write, beside it the present sample. */
export function RuleSheet({ rule, systems, known }: RuleSheetProps) {
  const draft = useDraft(rule);
  const { body, edit } = draft;
  const surroundings = surroundingsOf(known);
  const asEdited = useMemo((): Rule => ({ ...body, id: rule.id, version: 0 }), [body, rule.id]);
  const compilation = useMemo(() => compileRule(asEdited, surroundings), [asEdited, surroundings]);
  const sound = compilation.ok ? compilation.compiled : compilation.sound;

  // What is computed in the worker follows a moment later, and never keeps a keystroke waiting.
  const settled = useDeferredValue(asEdited);
  const rules = useRules().data;
  const others = useMemo(
    () =>
      (rules ?? []).flatMap((each): Rule[] =>
        each.id === rule.id ? [] : [{ ...each.draft, id: each.id, version: 0 }],
      ),
    [rules, rule.id],
  );
  const checked = useWork(
    'findings',
    useMemo(() => ({ rule: settled, others }), [settled, others]),
    known,
  );
  const findings = checked.output ?? noFindings;

  const samples = useRuleSamples(body.trigger);
  const replayed = useWork(
    'replay',
    useMemo(
      () => samples.present && { rules: [settled], sample: samples.present },
      [settled, samples.present],
    ),
    known,
  );
  const [params] = useSearchParams();
  const live = useLive(sound, samples.present, surroundings.catalog, Number(params.get('record') ?? 0) || 0);

  const view = useLedgerView();
  const [active, setActive] = useState(params.get('line') ?? undefined);
  const editor = useRef<EditorView>(null);
  const onEditor = useCallback((focused: EditorView) => void (editor.current = focused), []);
  const onUse = (path: string) => editor.current && insertInto(editor.current, printPath(path.split('.')));
  const [keysShown, setKeysShown] = useState(false);
  useSheetKeys({
    undo: draft.undo,
    redo: draft.redo,
    stepSample: samples.step,
    showKeys: () => setKeysShown(true),
  });

  const sheet = useMemo(
    (): Sheet => ({
      body,
      systems,
      surroundings,
      problems: compilation.ok ? [] : compilation.problems,
      findings,
      edit,
      fix: ({ fix }) => fix && edit((known) => applyFix(known, fix)),
      onEditor,
      scopeAt: (place) => scopeAt(body, place, surroundings),
    }),
    [body, systems, surroundings, compilation, findings, edit, onEditor],
  );
  const drop = (dragged: Dragged, { action, field }: DropPlace) =>
    edit((known) => {
      const target = known.actions[action];
      if (!target) return known;
      if (dragged.kind === 'value') {
        const formula = printPath(dragged.path.split('.'));
        return { ...known, actions: known.actions.with(action, setLine(target, field, { formula })) };
      }
      if (dragged.action !== action || dragged.field === field) return known;
      return { ...known, actions: known.actions.with(action, moveLine(target, dragged.field, field)) };
    });
  const type = surroundings.catalog.recordType(body.trigger.system, body.trigger.recordType);
  const activeAction = Number(active?.split('/')[0] ?? 0);
  const column = params.get('column');
  return (
    <SheetProvider value={sheet}>
      <DragArea onDrop={drop}>
        <div className="split" style={{ gridTemplateColumns: `minmax(0, 1fr) ${column ? 460 : 318}px` }}>
          <div className="sheet">
            <SheetHead
              rule={rule}
              draft={draft}
              findings={findings}
              current={checked.current && settled === asEdited}
              goTo={setActive}
              showKeys={() => setKeysShown(true)}
            />
            <When trigger={body.trigger} systems={systems} />
            <OnlyIf guard={body.guard} />
            <Finds
              body={body}
              systems={systems}
              steps={live.reach?.report.steps.filter((step) => step.kind === 'find') ?? []}
            />
            {body.actions.map((action, at) => {
              const target = targetOf(body, action.target, surroundings.catalog);
              return target ? (
                <Ledger
                  key={at}
                  at={at}
                  action={action}
                  system={target.system}
                  type={target.type}
                  compiled={sound?.actions.find((each) => each.at === at)}
                  live={live.actions.get(at)}
                  known={known}
                  ruleId={rule.id}
                  samples={samples.all}
                  view={view}
                  current={at === activeAction}
                  active={active?.startsWith(`${at}/`) ? active.slice(`${at}/`.length) : undefined}
                  setActive={(field) => setActive(field === undefined ? undefined : `${at}/${field}`)}
                />
              ) : (
                <div key={at} className="note wrong">
                  Nothing is found under the name “{action.target}”.
                </div>
              );
            })}
          </div>
          {column ? (
            <ColumnPane place={column} rule={settled} known={known} onClose={() => view.put('column', '')} />
          ) : (
            <SamplePane
              samples={samples.list}
              sample={samples.present}
              type={type}
              report={samples.present && replayed.output?.report.rules.find(({ depth }) => depth === 0)}
              choose={samples.choose}
              step={samples.step}
              onUse={onUse}
            />
          )}
        </div>
      </DragArea>
      <Keys opened={keysShown} onClose={() => setKeysShown(false)} />
    </SheetProvider>
  );
}
