import { autocompletion, completionKeymap, type CompletionResult } from '@codemirror/autocomplete';
import { history, historyKeymap, standardKeymap } from '@codemirror/commands';
import { EditorState } from '@codemirror/state';
import { EditorView, keymap, lineNumbers, placeholder as placeholderText } from '@codemirror/view';
import { useEffect, useRef } from 'react';
import { completeSample, type System } from '@vast-knot/core';

interface JsonEditorProps {
  readonly value: string;
  readonly label: string;
  readonly placeholder: string;
  /** Whose record types, fields and options are offered, where a sample is typed; absent for other JSON. */
  readonly systems?: readonly System[];
  readonly onChange: (text: string) => void;
}

const none: readonly System[] = [];

/** Samples as JSON text, with the keys and values that can stand at the cursor offered while it is typed. */
export function JsonEditor(props: JsonEditorProps) {
  const { value, label, placeholder } = props;
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView>(null);
  const latest = useRef(props);
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
          history(),
          lineNumbers(),
          EditorView.lineWrapping,
          autocompletion({
            override: [
              ({ state, pos, explicit }) =>
                offered(state.doc.toString(), pos, explicit, latest.current.systems ?? none),
            ],
            icons: false,
            interactionDelay: 0,
          }),
          keymap.of([...completionKeymap, ...historyKeymap, ...standardKeymap]),
          placeholderText(placeholder),
          EditorView.contentAttributes.of({ 'aria-label': label, spellcheck: 'false' }),
          EditorView.updateListener.of(({ docChanged, state }) => {
            if (docChanged && state.doc.toString() !== latest.current.value)
              latest.current.onChange(state.doc.toString());
          }),
        ],
      }),
    });
    view.current = editor;
    return () => editor.destroy();
  }, [label, placeholder]);
  useEffect(() => {
    const editor = view.current;
    if (!editor || editor.state.doc.toString() === value) return;
    editor.dispatch({ changes: { from: 0, to: editor.state.doc.length, insert: value } });
  }, [value]);
  return <div ref={host} className="formula-editor json-editor" />;
}

function offered(
  text: string,
  at: number,
  explicit: boolean,
  systems: readonly System[],
): CompletionResult | null {
  const found = completeSample(text, at, systems);
  if (!found || (!explicit && !found.quoted && found.from === at)) return null;
  const { from, quoted } = found;
  return {
    from,
    validFor: /^[\w-]*$/,
    options: found.options.map(({ text: word, detail, isKey }) => ({
      label: word,
      detail,
      apply: (view, _completion, start, end) => {
        const closed = view.state.sliceDoc(end, end + 1) === '"';
        const put = `${quoted ? '' : '"'}${word}${closed ? '' : '"'}${isKey && !closed ? ': ' : ''}`;
        view.dispatch({
          changes: { from: start, to: end, insert: put },
          selection: { anchor: start + put.length + (closed ? 1 : 0) },
          userEvent: 'input.complete',
        });
      },
    })),
  };
}
