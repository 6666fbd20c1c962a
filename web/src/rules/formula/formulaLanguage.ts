import {
  autocompletion,
  completionKeymap,
  type Completion as EditorCompletion,
  type CompletionContext,
  type CompletionResult,
} from '@codemirror/autocomplete';
import { standardKeymap } from '@codemirror/commands';
import { Annotation, StateField, type EditorState, type Extension } from '@codemirror/state';
import {
  Decoration,
  EditorView,
  keymap,
  showTooltip,
  ViewPlugin,
  type DecorationSet,
  type Tooltip,
  type ViewUpdate,
} from '@codemirror/view';
import { completionsAt, signatureAt, type Completion, type Scope, type SignatureHelp } from '@vast-knot/core';
import { paintedParts } from './paintedParts';

/** Marks changes of the text that did not come from typing. */
export const fromOutside = Annotation.define<boolean>();

/** Returns what makes an editor one for formulas: colours, completion, signatures, keys. */
export function formulaLanguage(scope: () => Scope | undefined): Extension {
  return [
    EditorView.lineWrapping,
    painting,
    autocompletion({
      override: [(context) => complete(context, scope())],
      icons: false,
      interactionDelay: 0,
      optionClass: ({ type }) => `completion-${type ?? ''}`,
    }),
    signatureTooltip,
    keymap.of([...completionKeymap, ...standardKeymap.filter(({ key }) => key !== 'Enter')]),
  ];
}

function complete(context: CompletionContext, scope: Scope | undefined): CompletionResult | null {
  if (!scope) return null;
  const text = context.state.doc.toString();
  const { from, options } = completionsAt(text, context.pos, scope);
  const begun = context.pos > from || ['.', '"'].includes(text[from - 1] ?? '');
  if (options.length === 0 || (!context.explicit && !begun)) return null;
  return { from, options: options.map(toEditor), validFor: /^[\p{L}\p{N}_$ -]*$/u };
}

const boosts: Readonly<Record<Completion['kind'], number>> = {
  field: 3,
  option: 3,
  table: 3,
  column: 3,
  record: 2,
  word: 2,
  function: 0,
};

function toEditor({ insert, label, kind, detail, meaning }: Completion): EditorCompletion {
  return {
    label,
    type: kind,
    detail,
    boost: boosts[kind],
    ...(meaning !== undefined && { info: meaning }),
    apply: (view, _completion, from, to) => {
      const quoted = kind === 'option' || kind === 'table' || kind === 'column';
      const closes = quoted && view.state.sliceDoc(to, to + 1) !== '"';
      const put = closes ? `${insert}"` : insert;
      view.dispatch({
        changes: { from, to, insert: put },
        selection: { anchor: from + put.length + (quoted && !closes ? 1 : 0) },
        userEvent: 'input.complete',
      });
    },
  };
}

const painting = ViewPlugin.fromClass(
  class {
    decorations: DecorationSet;
    constructor(view: EditorView) {
      this.decorations = paint(view.state);
    }
    update(update: ViewUpdate) {
      if (update.docChanged) this.decorations = paint(update.state);
    }
  },
  { decorations: (plugin) => plugin.decorations },
);

function paint(state: EditorState): DecorationSet {
  const marks = paintedParts(state.doc.toString()).flatMap(({ paint: name, start, end }) =>
    name === 'plain' ? [] : [Decoration.mark({ class: `f-${name}` }).range(start, end)],
  );
  return Decoration.set(marks);
}

const signatureTooltip = StateField.define<Tooltip | null>({
  create: (state) => tooltipAt(state),
  update: (known, change) => (change.docChanged || change.selection ? tooltipAt(change.state) : known),
  provide: (field) => showTooltip.from(field),
});

function tooltipAt(state: EditorState): Tooltip | null {
  const { head } = state.selection.main;
  const help = signatureAt(state.doc.toString(), head);
  return help ? { pos: head, above: true, create: () => ({ dom: signatureElement(help) }) } : null;
}

function signatureElement({ name, parts, at, meaning }: SignatureHelp): HTMLElement {
  const dom = document.createElement('div');
  dom.className = 'signature-help';
  const line = document.createElement('code');
  line.append(`${name}(`);
  parts.forEach((part, index) => {
    if (index > 0) line.append(', ');
    const element = document.createElement(index === at ? 'strong' : 'span');
    element.textContent = part;
    line.append(element);
  });
  line.append(')');
  const sentence = document.createElement('div');
  sentence.textContent = meaning;
  dom.append(line, sentence);
  return dom;
}
