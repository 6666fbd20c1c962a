import type { EditorView } from '@codemirror/view';
import { useCallback, useDeferredValue, useEffect, useMemo, useRef, useState, type RefObject } from 'react';
import { useSearchParams } from 'react-router';
import {
  applyFix,
  actionOf,
  hasLedger,
  isCompiledWrite,
  parsePlace,
  printPath,
  targetName,
  targetOf,
  type RuleView,
  type SystemView,
} from '@vast-knot/core';
import { useMay } from '../frame/useMay';
import { parseLineKey } from './lineKey';
import type { Known } from '../work/known';
import { ActionView, stepsOfAction } from './actions/ActionView';
import { AddAction } from './AddAction';
import { Clauses } from './Clauses';
import { ColumnPane } from './column/ColumnPane';
import { DragArea, type OnDrop } from './drag/DragArea';
import { dropOnto } from './drag/dropOnto';
import { FindingNotes } from './findings/FindingNote';
import { insertInto } from './formula/FormulaEditor';
import { Ledger } from './ledger/Ledger';
import { useLedgerView } from './ledger/useLedgerView';
import { useAboutValue } from './live/useAboutValue';
import { useReach } from './live/useReach';
import { OnError } from './OnError';
import { PartPlace } from './part/PartPlace';
import { usePartClipboard } from './part/usePartClipboard';
import { SamplePane } from './SamplePane';
import { StateProvider, ToolsProvider, type SheetTools } from './SheetContext';
import { SheetHead } from './SheetHead';
import { useDraft } from './useDraft';
import { useRuleSamples } from './useRuleSamples';
import { useSheetKeys } from './useSheetKeys';
import { useSheetWork } from './useSheetWork';

interface RuleSheetProps {
  readonly rule: RuleView;
  readonly systems: readonly SystemView[];
  readonly known: Known;
}

/** A rule as a page of prose with live figures: When … only if … find … then write, beside it the present sample. */
export function RuleSheet(props: RuleSheetProps) {
  const dropRef = useRef<OnDrop>(null);
  return (
    // Around everything, and drawn once: what is below is drawn with every keystroke.
    <DragArea dropRef={dropRef}>
      <Sheet {...props} dropRef={dropRef} />
    </DragArea>
  );
}

function Sheet({
  rule,
  systems,
  known,
  dropRef,
}: RuleSheetProps & { readonly dropRef: RefObject<OnDrop | null> }) {
  const draft = useDraft(rule);
  const { body, edit } = draft;
  const samples = useRuleSamples(body.trigger);
  const work = useSheetWork(rule.id, body, samples.present, known);
  const { surroundings, compiledParts, state } = work;
  // What stands around the clauses follows a moment later, so that a key need not wait for them; what is typed in them does not.
  const around = useDeferredValue(state);
  const reach = useReach(compiledParts, samples.present, surroundings.catalog);

  const view = useLedgerView();
  const [params] = useSearchParams();
  const [active, setActive] = useState(params.get('line') ?? undefined);
  const editor = useRef<EditorView>(null);
  const onEditor = useCallback((focused: EditorView) => void (editor.current = focused), []);
  const onUse = useCallback((path: string) => {
    if (editor.current) insertInto(editor.current, printPath(path.split('.')));
  }, []);
  useSheetKeys({ undo: draft.undo, redo: draft.redo, stepSample: samples.step });

  const bodyRef = useRef(body);
  useEffect(() => {
    bodyRef.current = body;
  }, [body]);
  const aboutValue = useAboutValue({ body, sample: samples.present, reach, systems });
  const tools = useMemo(
    (): SheetTools => ({
      systems,
      surroundings,
      edit,
      current: () => bodyRef.current,
      fix: ({ fix }) => fix && edit((before) => applyFix(before, fix)),
      onEditor,
      aboutValue,
    }),
    [systems, surroundings, edit, onEditor, aboutValue],
  );
  usePartClipboard(tools, useMay('rules.edit'));
  useEffect(() => {
    dropRef.current = (dragged, place) => edit((before) => dropOnto(before, dragged, place));
  }, [dropRef, edit]);
  const activeLine = active === undefined ? undefined : parseLineKey(active);
  const activeAction = activeLine?.action ?? 0;
  const column = params.get('column');
  return (
    <ToolsProvider value={tools}>
      <div className={`split ${column ? 'column-beside' : 'sample-beside'}`}>
        <div className="sheet">
          {/* Around these alone: what is told through it would be looked for in every row of the ledger. */}
          <StateProvider value={around}>
            <SheetHead
              rule={rule}
              draft={draft}
              findings={around.findings}
              current={work.current}
              unchecked={work.unchecked}
              goTo={setActive}
            />
            <Clauses
              body={body}
              findings={around.findings}
              systems={systems}
              reach={reach}
              sample={samples.present}
            />
          </StateProvider>
          {body.actions.map((action, at) => {
            const target = targetOf(body, action, surroundings.catalog);
            if (!target) {
              return (
                <div key={at} className="note wrong">
                  Nothing is found under the name “{targetName(action)}”.
                </div>
              );
            }
            const compiled = compiledParts?.actions.find((each) => each.at === at);
            return hasLedger(action) ? (
              <Ledger
                key={at}
                at={at}
                action={action}
                state={state}
                system={target.system}
                type={target.type}
                compiled={compiled && isCompiledWrite(compiled) ? compiled : undefined}
                reach={reach}
                present={Number(params.get('record') ?? 0) || 0}
                known={known}
                ruleId={rule.id}
                samples={samples.all}
                view={view}
                current={at === activeAction}
                active={activeLine?.action === at ? activeLine.field : undefined}
                setActive={setActive}
              />
            ) : (
              <StateProvider key={at} value={state}>
                <PartPlace of="actions" at={at} className="clause wide">
                  <div data-action={at}>
                    <ActionView
                      at={at}
                      action={action}
                      body={body}
                      ruleId={rule.id}
                      system={target.system}
                      type={target.type}
                      steps={stepsOfAction(work.report?.steps, at)}
                    />
                    <FindingNotes
                      findings={state.findings.filter(({ at: place }) => isAboutAction(place, at))}
                      onFix={tools.fix}
                    />
                  </div>
                </PartPlace>
              </StateProvider>
            );
          })}
          <AddAction />
          <OnError stops={body.onError === 'stop'} />
        </div>
        {column ? (
          <ColumnPane
            place={column}
            rule={work.settled}
            known={known}
            onClose={() => view.put({ column: '' })}
          />
        ) : (
          <SamplePane
            rule={rule.id}
            trigger={body.trigger}
            samples={samples.list}
            sample={samples.present}
            type={surroundings.catalog.recordType(body.trigger.system, body.trigger.recordType)}
            report={work.report}
            unanswered={work.unanswered}
            choose={samples.choose}
            step={samples.step}
            onUse={onUse}
          />
        )}
      </div>
    </ToolsProvider>
  );
}

/** Members of an action whose findings stand beside them. */
const shownThere: ReadonlySet<string> = new Set(['formula', 'only', 'name', 'step']);

/** Returns whether a place lies in an action and is shown with the action as a whole. */
function isAboutAction(place: string, at: number): boolean {
  const parsed = parsePlace(place);
  if (actionOf(parsed) !== at) return false;
  const last = parsed.of === 'line' ? parsed.member : 'rest' in parsed ? parsed.rest.at(-1) : undefined;
  return last === undefined || !shownThere.has(last);
}
