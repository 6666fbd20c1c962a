import { ActionIcon, Button, Tooltip } from '@mantine/core';
import { IconArrowDown, IconArrowUp } from '@tabler/icons-react';
import { fieldAt, type Field, type FormFinding, type FormItem } from '@vast-knot/core';
import { useMay } from '../frame/useMay';
import { count } from '../parts/time';
import { Verdict } from '../parts/Verdict';
import { moved, without, withAdded, withNewQuestion, type FormDraft } from './formEdits';
import { ItemEditor } from './ItemEditor';

interface FormLedgerProps {
  readonly draft: FormDraft;
  readonly edit: (change: (draft: FormDraft) => FormDraft, part?: string) => void;
  readonly findings: readonly FormFinding[];
  /** The place of what is edited. */
  readonly at: number | undefined;
  readonly choose: (at: number | undefined) => void;
}

/** What a form asks and says, in its order; one of them open to be edited. */
export function FormLedger({ draft, edit, findings, at, choose }: FormLedgerProps) {
  const mayChange = useMay('systems.change');
  const items = draft.form?.items ?? [];
  const general = findings.filter((finding) => finding.at === 'items');
  return (
    <section aria-label="Questions">
      <h2 className="form-part">Questions</h2>
      {general.map(({ because, severity }) => (
        <p key={because} className={`flush small value ${severity === 'error' ? 'wrong' : 'will'}`}>
          {because}
        </p>
      ))}
      <ol className="form-items">
        {items.map((item, place) => {
          const field = item.kind === 'question' ? fieldAt(draft.type.fields, item.field) : undefined;
          const own = findings.filter((finding) => finding.at === place);
          const open = at === place;
          return (
            <li key={`${place} ${keyOf(item)}`} className={open ? 'form-item open' : 'form-item'}>
              <div className="form-item-head">
                <button
                  type="button"
                  className="form-item-name"
                  aria-expanded={open}
                  onClick={() => choose(open ? undefined : place)}
                >
                  <ItemName item={item} field={field} />
                </button>
                {mayChange && (
                  <Order
                    name={field?.label ?? 'the note'}
                    up={place > 0 ? () => edit((known) => moved(known, place, -1)) : undefined}
                    down={
                      place < items.length - 1 ? () => edit((known) => moved(known, place, 1)) : undefined
                    }
                    follow={(by) => open && choose(place + by)}
                  />
                )}
              </div>
              {own.map(({ because, severity }) => (
                <p key={because} className="flush">
                  <Verdict tone={severity === 'error' ? 'wrong' : 'will'}>{because}</Verdict>
                </p>
              ))}
              {open && (
                <ItemEditor
                  draft={draft}
                  item={item}
                  field={field}
                  place={place}
                  edit={edit}
                  remove={() => {
                    choose(undefined);
                    edit((known) => without(known, place));
                  }}
                />
              )}
            </li>
          );
        })}
      </ol>
      {mayChange && (
        <p className="side-by-side">
          <Button
            variant="default"
            onClick={() => {
              edit((known) => withNewQuestion(known, 'New question'));
              choose(items.length);
            }}
          >
            Ask something more
          </Button>
          <Button
            variant="default"
            onClick={() => {
              edit((known) => withAdded(known, { kind: 'note', text: '', shown: '', stops: false }));
              choose(items.length);
            }}
          >
            Say something
          </Button>
        </p>
      )}
    </section>
  );
}

const keyOf = (item: FormItem) => (item.kind === 'question' ? item.field : 'note');

/** A question or note in a line: what it asks, of what kind, when it is shown. */
function ItemName({ item, field }: { readonly item: FormItem; readonly field: Field | undefined }) {
  return (
    <>
      {item.kind === 'note' ? (
        <>
          <span className="dim">{item.stops ? 'Stops and says' : 'Says'}</span>{' '}
          {item.text === '' ? <span className="dim">nothing yet</span> : item.text.slice(0, 90)}
          {item.text.length > 90 && '…'}
        </>
      ) : (
        <>
          <strong>{field?.label ?? item.field}</strong> <span className="mono small dim">{item.field}</span>{' '}
          <span className="small dim">{field && kindOf(field)}</span>
        </>
      )}
      {item.shown.trim() !== '' && (
        <span className="small">
          {' '}
          <span className="dim">if</span> <span className="mono">{item.shown}</span>
        </span>
      )}
    </>
  );
}

const kinds: Readonly<Partial<Record<Field['type'], string>>> = {
  text: 'text',
  integer: 'whole number',
  decimal: 'number',
  boolean: 'yes or no',
  date: 'day',
  datetime: 'day and time',
};

function kindOf({ type, options = [], required }: Field): string {
  const kind =
    type === 'choice'
      ? `one of ${count(options.length, 'choice')}`
      : type === 'multichoice'
        ? `several of ${count(options.length, 'choice')}`
        : (kinds[type] ?? type);
  return required ? `${kind}, has to be answered` : kind;
}

interface OrderProps {
  readonly name: string;
  readonly up: (() => void) | undefined;
  readonly down: (() => void) | undefined;
  readonly follow: (by: -1 | 1) => void;
}

function Order({ name, up, down, follow }: OrderProps) {
  return (
    <span className="form-item-order">
      {(
        [
          [up, -1, 'Move up', IconArrowUp],
          [down, 1, 'Move down', IconArrowDown],
        ] as const
      ).map(([move, by, label, Icon]) => (
        <Tooltip key={label} label={label}>
          <ActionIcon
            variant="subtle"
            size="md"
            aria-label={`${label}: ${name}`}
            disabled={!move}
            onClick={() => {
              move?.();
              follow(by);
            }}
          >
            <Icon size={14} />
          </ActionIcon>
        </Tooltip>
      ))}
    </span>
  );
}
