import {
  autocompletion,
  completionKeymap,
  type Completion as EditorCompletion,
  type CompletionContext,
  type CompletionResult,
} from '@codemirror/autocomplete';
import { standardKeymap } from '@codemirror/commands';
import { Annotation, StateEffect, StateField, type EditorState, type Extension } from '@codemirror/state';
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
import {
  completionsAt,
  signatureAt,
  type Completion,
  type Field,
  type Scope,
  type SignatureHelp,
} from '@vast-knot/core';
import { paintedParts } from './paintedParts';

/** Marks changes of the text that did not come from typing. */
export const fromOutside = Annotation.define<boolean>();

/** What is known of a value that a completion names. */
export interface AboutValue {
  /** Where it comes from: “Company in Customer Book”. */
  readonly from: string;
  /** What it is for the present sample; absent where there is none. */
  readonly now?: string;
}

/** What completions are made of, asked when they are. */
export interface CompletionSource {
  readonly scope: Scope | undefined;
  /** The field whose value the formula makes. */
  readonly gives?: Field | undefined;
  readonly about?: ((path: readonly string[]) => AboutValue | undefined) | undefined;
}

/** Returns what makes an editor one for formulas: colours, completion, signatures, keys. */
export function formulaLanguage(source: () => CompletionSource): Extension {
  return [
    EditorView.lineWrapping,
    painting,
    autocompletion({
      override: [(context) => complete(context, source())],
      icons: false,
      interactionDelay: 0,
      optionClass: ({ type }) => `completion-${type ?? ''}`,
    }),
    signatureTooltip,
    focusTold,
    keymap.of([...completionKeymap, ...standardKeymap.filter(({ key }) => key !== 'Enter')]),
  ];
}

function complete(
  context: CompletionContext,
  { scope, gives, about }: CompletionSource,
): CompletionResult | null {
  if (!scope) return null;
  const text = context.state.doc.toString();
  const { from, options } = completionsAt(text, context.pos, scope, gives);
  const begun = context.pos > from || ['.', '"'].includes(text[from - 1] ?? '');
  if (options.length === 0 || (!context.explicit && !begun)) return null;
  return {
    from,
    options: options.map((option) => toEditor(option, about)),
    validFor: /^[\p{L}\p{N}_$ -]*$/u,
  };
}

const boosts: Readonly<Record<Completion['kind'], number>> = {
  field: 3,
  option: 3,
  result: 4,
  table: 3,
  column: 3,
  record: 2,
  word: 2,
  function: 0,
};

function toEditor(completion: Completion, about: CompletionSource['about']): EditorCompletion {
  const { insert, label, kind, detail, meaning, path } = completion;
  return {
    label,
    type: kind,
    detail,
    boost: boosts[kind],
    ...(meaning !== undefined && { info: () => infoElement(meaning, path && about?.(path)) }),
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

/** What a completion means, where its value comes from, and what it is for the present sample. */
function infoElement(meaning: string, known: AboutValue | undefined): HTMLElement {
  const dom = document.createElement('div');
  const line = (text: string, className = '') => {
    const element = document.createElement('div');
    element.textContent = text;
    element.className = className;
    dom.append(element);
  };
  line(meaning);
  if (known) line(known.from, 'small dim');
  if (known?.now !== undefined) line(`This sample: ${known.now}`, 'small');
  return dom;
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

/** Whether the editor has the focus: what helps with typing goes when it is left. */
const focused = StateEffect.define<boolean>();
const focusTold = EditorView.focusChangeEffect.of((_state, focusing) => focused.of(focusing));

interface Signature {
  readonly here: boolean;
  readonly tooltip: Tooltip | null;
}

const signatureTooltip = StateField.define<Signature>({
  create: () => ({ here: false, tooltip: null }),
  update: (known, change) => {
    const told = change.effects.find((effect) => effect.is(focused));
    const here = told ? told.value : known.here;
    if (!told && !change.docChanged && !change.selection) return known;
    return { here, tooltip: here ? tooltipAt(change.state) : null };
  },
  provide: (field) => showTooltip.from(field, ({ tooltip }) => tooltip),
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
