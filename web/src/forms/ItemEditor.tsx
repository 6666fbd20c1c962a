import { Button, Checkbox, NumberInput, Select, Textarea, TextInput } from '@mantine/core';
import { useMemo, useState } from 'react';
import {
  askable,
  compile,
  type Field,
  type FieldOption,
  type FieldType,
  type FormItem,
  type FormQuestion,
  type RecordType,
  type Scope,
} from '@vast-knot/core';
import { useMay } from '../frame/useMay';
import { optionLines, optionsIn } from '../parts/optionLines';
import { withMember } from '../parts/withMember';
import { FormulaEditor } from '../rules/formula/FormulaEditor';
import { withField, withFieldType, withItem, type FormDraft } from './formEdits';

interface ItemEditorProps {
  readonly draft: FormDraft;
  readonly item: FormItem;
  readonly field: Field | undefined;
  readonly place: number;
  readonly edit: (change: (draft: FormDraft) => FormDraft, part?: string) => void;
  readonly remove: () => void;
}

/** Everything about one question or note. */
export function ItemEditor({ draft, item, field, place, edit, remove }: ItemEditorProps) {
  const mayChange = useMay('systems.change');
  const put = (change: Partial<FormItem>, part: string) =>
    edit(
      (known) => withItem(known, place, (each) => ({ ...each, ...change }) as FormItem),
      `${place} ${part}`,
    );
  return (
    <div className="item-editor">
      {item.kind === 'question' ? (
        field && <AboutQuestion {...{ item, field, place, edit, mayChange }} />
      ) : (
        <>
          <Textarea
            label="What it says"
            className="whole"
            value={item.text}
            readOnly={!mayChange}
            autosize
            minRows={2}
            onChange={({ currentTarget: { value } }) => put({ text: value }, 'text')}
          />
          <Checkbox
            label="While it is shown, nothing can be sent"
            checked={item.stops}
            disabled={!mayChange}
            onChange={({ currentTarget: { checked } }) => put({ stops: checked }, 'stops')}
          />
        </>
      )}
      <Shown item={item} type={draft.type} put={(shown) => put({ shown }, 'shown')} />
      {mayChange && (
        <Button variant="subtle" color="rust" size="compact-sm" onClick={remove}>
          {item.kind === 'question' ? 'Ask it no more' : 'Say it no more'}
        </Button>
      )}
    </div>
  );
}

interface AboutQuestionProps extends Pick<ItemEditorProps, 'place' | 'edit'> {
  readonly item: FormQuestion;
  readonly field: Field;
  readonly mayChange: boolean;
}

function AboutQuestion({ item, field, place, edit, mayChange }: AboutQuestionProps) {
  const { type } = field;
  const of = (change: (known: Field) => Field, part: string) =>
    edit((known) => withField(known, item.field, change), `${item.field} ${part}`);
  const number = (label: string, member: 'min' | 'max' | 'maxLength') => (
    <NumberInput
      label={label}
      value={field[member] ?? ''}
      readOnly={!mayChange}
      hideControls
      onChange={(value) =>
        of((known) => withMember(known, member, typeof value === 'number' ? value : undefined), member)
      }
    />
  );
  const choices = (label: string, member: 'few' | 'most') => (
    <NumberInput
      label={label}
      value={item[member] ?? ''}
      readOnly={!mayChange}
      hideControls
      min={1}
      onChange={(value) =>
        edit(
          (known) =>
            withItem(known, place, (each) =>
              each.kind === 'question'
                ? withMember(each, member, typeof value === 'number' ? value : undefined)
                : each,
            ),
          `${place} ${member}`,
        )
      }
    />
  );
  return (
    <>
      <TextInput
        label="Question"
        className="whole"
        value={field.label}
        readOnly={!mayChange}
        maxLength={120}
        data-autofocus
        onChange={({ currentTarget: { value } }) => of((known) => ({ ...known, label: value }), 'label')}
      />
      <TextInput
        label="What helps whoever answers"
        className="whole"
        value={item.hint}
        readOnly={!mayChange}
        maxLength={1000}
        onChange={({ currentTarget: { value } }) =>
          edit(
            (known) => withItem(known, place, (each) => ({ ...each, hint: value }) as FormItem),
            `${place} hint`,
          )
        }
      />
      <Select
        label="Answer"
        data={askable.map((each) => ({ value: each, label: kindNames[each] ?? each }))}
        value={type}
        disabled={!mayChange}
        allowDeselect={false}
        onChange={(value) =>
          value && edit((known) => withFieldType(known, place, item.field, value as FieldType))
        }
      />
      <Checkbox
        label="It has to be answered"
        checked={field.required ?? false}
        disabled={!mayChange}
        onChange={({ currentTarget: { checked } }) =>
          of((known) => withMember(known, 'required', checked ? true : undefined), 'required')
        }
      />
      {type === 'text' && number('Longest text, in characters', 'maxLength')}
      {(type === 'integer' || type === 'decimal') && (
        <>
          {number('At least', 'min')}
          {number('At most', 'max')}
        </>
      )}
      {(type === 'choice' || type === 'multichoice') && (
        <Choices
          options={field.options ?? []}
          readOnly={!mayChange}
          change={(options) => of((known) => ({ ...known, options }), 'options')}
        />
      )}
      {type === 'multichoice' && (
        <>
          {choices('Chosen at least', 'few')}
          {choices('Chosen at most', 'most')}
        </>
      )}
    </>
  );
}

interface ChoicesProps {
  readonly options: readonly FieldOption[];
  readonly readOnly: boolean;
  readonly change: (options: readonly FieldOption[]) => void;
}

/** The choices of a question as lines of text, which stay as they are typed while they mean the same. */
function Choices({ options, readOnly, change }: ChoicesProps) {
  const [text, setText] = useState(optionLines(options));
  const [known, setKnown] = useState(options);
  if (known !== options) {
    setKnown(options);
    // They were changed elsewhere, as by going a step back.
    if (optionLines(optionsIn(text)) !== optionLines(options)) setText(optionLines(options));
  }
  return (
    <Textarea
      label="Choices"
      description="One to a line: what people read; or code = what people read, where the code is kept"
      className="whole mono-input"
      autosize
      minRows={3}
      maxRows={14}
      readOnly={readOnly}
      value={text}
      onChange={({ currentTarget: { value } }) => {
        setText(value);
        change(optionsIn(value));
      }}
    />
  );
}

const kindNames: Readonly<Partial<Record<FieldType, string>>> = {
  text: 'a text',
  integer: 'a whole number',
  decimal: 'a number',
  boolean: 'yes or no',
  date: 'a day',
  datetime: 'a day and a time',
  choice: 'one of some choices',
  multichoice: 'several of some choices',
};

interface ShownProps {
  readonly item: FormItem;
  readonly type: RecordType;
  readonly put: (shown: string) => void;
}

/** The condition under which something is shown. */
function Shown({ item, type, put }: ShownProps) {
  const scope = useMemo(
    (): Scope => ({ record: type.fields, found: new Map(), tables: new Map() }),
    [type.fields],
  );
  const { shown } = item;
  const mistakes = useMemo(() => {
    if (shown.trim() === '') return [];
    const compiled = compile(shown, scope);
    return compiled.ok
      ? []
      : compiled.errors.map(({ message, place }) => ({
          message,
          start: place?.start ?? 0,
          end: place?.end ?? shown.length,
        }));
  }, [shown, scope]);
  return (
    <div className="whole">
      <span className="form-label">Shown only if</span>
      <FormulaEditor
        value={shown}
        label="Shown only if"
        placeholder="always; or a condition over the answers above, such as weight > 5000"
        scope={scope}
        right="systems.change"
        mistakes={mistakes}
        onChange={put}
      />
    </div>
  );
}
