import {
  acceptCompletion,
  closeCompletion,
  completionStatus,
  startCompletion,
} from '@codemirror/autocomplete';
import { diagnosticCount, setDiagnostics } from '@codemirror/lint';
import { Compartment, EditorState } from '@codemirror/state';
import { EditorView, keymap, placeholder as placeholderText } from '@codemirror/view';
import { useEffect, useRef } from 'react';
import { flushSync } from 'react-dom';
import type { Field, Right, Scope } from '@vast-knot/core';
import { useMay } from '../../frame/useMay';
import { formulaLanguage, fromOutside, type AboutValue } from './formulaLanguage';

/** A mistake in a formula, with the stretch of text that it is about. */
export interface FormulaMistake {
  readonly message: string;
  readonly start: number;
  readonly end: number;
}

/** What the keys of an editor do beyond editing. */
interface EditorKeys {
  /** Enter: on to the next formula. */
  readonly onEnter?: () => void;
  readonly onMove?: (step: 1 | -1) => void;
  readonly onEscape?: () => void;
}

interface FormulaEditorProps extends EditorKeys {
  readonly value: string;
  readonly label: string;
  readonly placeholder?: string;
  readonly scope: Scope | undefined;
  /** The right that editing wants. */
  readonly right?: Right;
  /** The field whose value the formula makes. */
  readonly gives?: Field;
  readonly about?: (path: readonly string[]) => AboutValue | undefined;
  readonly mistakes: readonly FormulaMistake[];
  readonly autoFocus?: boolean;
  /** The id of what describes a mistake. */
  readonly describedBy?: string | undefined;
  readonly onChange: (formula: string) => void;
  /** Told which editor a pressed payload value goes into. */
  readonly onFocus?: ((view: EditorView) => void) | undefined;
}

/** A formula as text: with completion, help for the function at the cursor, and its mistakes underlined. */
export function FormulaEditor(props: FormulaEditorProps) {
  const { value, label, placeholder = '', mistakes, describedBy, autoFocus, right = 'rules.edit' } = props;
  const mayChange = useMay(right);
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView>(null);
  const latest = useRef(props);
  const aria = useRef(new Compartment());
  useEffect(() => {
    latest.current = props;
  });

  useEffect(() => {
    if (!host.current) return;
    const editor = new EditorView({
      parent: host.current,
      state: EditorState.create({
        doc: latest.current.value,
        extensions: [
          keymap.of([
            { key: 'Enter', run: (view) => takeCompletion(view) || (latest.current.onEnter?.(), true) },
            { key: 'Alt-ArrowDown', run: () => (latest.current.onMove?.(1), true) },
            { key: 'Alt-ArrowUp', run: () => (latest.current.onMove?.(-1), true) },
            {
              key: 'Escape',
              run: (view) => closeCompletion(view) || (latest.current.onEscape?.(), true),
            },
            { key: 'Ctrl-Space', run: startCompletion },
          ]),
          formulaLanguage(() => latest.current),
          placeholderText(placeholder),
          EditorState.readOnly.of(!mayChange),
          EditorView.editable.of(mayChange),
          aria.current.of([]),
          EditorView.updateListener.of((update) => {
            if (update.docChanged && update.transactions.some((change) => !change.annotation(fromOutside))) {
              const text = update.state.doc.toString();
              // Drawn before the next frame; only the editor's own update has to end first.
              queueMicrotask(() => flushSync(() => latest.current.onChange(text)));
            }
            if (update.focusChanged && update.view.hasFocus) latest.current.onFocus?.(update.view);
          }),
        ],
      }),
    });
    view.current = editor;
    if (latest.current.autoFocus) {
      editor.focus();
      // The editor tells of its focus a moment later; a value may be pressed before.
      latest.current.onFocus?.(editor);
      editor.dispatch({ selection: { anchor: editor.state.doc.length } });
    }
    return () => editor.destroy();
  }, [mayChange, placeholder]);

  useEffect(() => {
    const editor = view.current;
    if (!editor || editor.state.doc.toString() === value) return;
    // Undo, a chip or another person changed it: the text follows and the cursor stays where it can.
    const anchor = Math.min(editor.state.selection.main.anchor, value.length);
    editor.dispatch({
      changes: { from: 0, to: editor.state.doc.length, insert: value },
      selection: { anchor },
      annotations: fromOutside.of(true),
    });
  }, [value]);

  useEffect(() => {
    view.current?.dispatch({
      effects: aria.current.reconfigure(
        EditorView.contentAttributes.of({
          'aria-label': label,
          'aria-invalid': String(mistakes.length > 0),
          ...(!mayChange && { 'aria-readonly': 'true' }),
          ...(describedBy !== undefined && { 'aria-describedby': describedBy }),
        }),
      ),
    });
  }, [label, mistakes.length, describedBy, mayChange]);

  useEffect(() => {
    const editor = view.current;
    if (!editor || (mistakes.length === 0 && diagnosticCount(editor.state) === 0)) return;
    const { length } = editor.state.doc;
    const diagnostics = mistakes.map(({ message, start, end }) => {
      const from = Math.min(start, Math.max(0, length - 1));
      return { from, to: Math.max(from, Math.min(end, length)), severity: 'error' as const, message };
    });
    editor.dispatch(setDiagnostics(editor.state, diagnostics));
  }, [mistakes, value]);

  useEffect(() => {
    if (!autoFocus || !view.current) return;
    view.current.focus();
    latest.current.onFocus?.(view.current);
  }, [autoFocus]);
  return <div ref={host} className="formula-editor" />;
}

/** Enter belongs to the completions while they are open, even in the moment before one can be taken. */
function takeCompletion(view: EditorView): boolean {
  return acceptCompletion(view) || completionStatus(view.state) === 'active';
}

/** Puts text where the cursor stands, as if it were typed. */
export function insertInto(view: EditorView, text: string): void {
  view.dispatch(view.state.replaceSelection(text));
  view.focus();
}
