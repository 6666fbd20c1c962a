import { Button, Select, TextInput } from '@mantine/core';
import { fieldAt, valueChangeText, type Trigger, type ValueChange } from '@vast-knot/core';
import { useMay } from '../../frame/useMay';
import { Phrase } from '../../parts/Phrase';
import { useSheetTools } from '../SheetContext';
import type { Narrowing } from './narrowing';

interface TurnsProps {
  readonly trigger: Trigger;
  readonly fields: readonly { readonly value: string; readonly label: string }[];
  readonly set: (change: Partial<Trigger>) => void;
  readonly drop: (member: Narrowing) => void;
}

/** Narrows the watched fields: “only Status from open to closed”. */
export function Turns({ trigger, fields, set, drop }: TurnsProps) {
  const mayChange = useMay('rules.edit');
  const { surroundings } = useSheetTools();
  const { turns = [], watched } = trigger;
  const type = surroundings.catalog.recordType(trigger.system, trigger.recordType);
  const change = (next: readonly ValueChange[]) => (next.length === 0 ? drop('turns') : set({ turns: next }));
  const said = turns.map((turn) =>
    valueChangeText(turn, fieldAt(type?.fields ?? [], turn.field)?.label ?? turn.field),
  );
  if (turns.length === 0 && !mayChange) return null;
  return (
    <>
      {', '}
      <Phrase
        says={turns.length === 0 ? 'to any value' : `only ${said.join(' or ')}`}
        label="Which changes count"
        width={460}
      >
        <p className="small dim said">
          Of a field named here only these changes start the rule. Leave a side empty for any value.
        </p>
        {turns.map((turn, at) => (
          <div key={at} className="turn">
            <Select
              aria-label="Field that changes"
              data={fields.filter(({ value }) =>
                watched.some((path) => value === path || value.startsWith(`${path}.`)),
              )}
              value={turn.field}
              onChange={(field) => field !== null && change(turns.with(at, { ...turn, field }))}
            />
            <TurnValue turn={turn} side="from" onChange={(next) => change(turns.with(at, next))} />
            <TurnValue turn={turn} side="to" onChange={(next) => change(turns.with(at, next))} />
            <Button
              variant="subtle"
              color="rust"
              size="compact-xs"
              onClick={() => change(turns.filter((_turn, each) => each !== at))}
            >
              Remove
            </Button>
          </div>
        ))}
        <Button
          variant="subtle"
          size="compact-xs"
          onClick={() => change([...turns, { field: watched[0] ?? '', to: '' }])}
        >
          Only a certain change
        </Button>
      </Phrase>
    </>
  );
}

/** One side of a change: any value, blank, or a value; from the options of the field where it has some. */
function TurnValue({
  turn,
  side,
  onChange,
}: {
  readonly turn: ValueChange;
  readonly side: 'from' | 'to';
  readonly onChange: (turn: ValueChange) => void;
}) {
  const { surroundings } = useSheetTools();
  const field = surroundings.catalog.systems
    .flatMap(({ recordTypes }) => recordTypes)
    .map(({ fields }) => fieldAt(fields, turn.field))
    .find((each) => (each?.options ?? []).length > 0);
  const put = (value: string | undefined) => {
    const { [side]: _gone, ...rest } = turn;
    const next: ValueChange = value === undefined ? rest : { ...rest, [side]: value };
    // One of the sides says something, or it were no turn.
    if (next.from !== undefined || next.to !== undefined) onChange(next);
  };
  const value = turn[side];
  const label = side === 'from' ? 'from' : 'to';
  if (field?.options) {
    return (
      <Select
        aria-label={label}
        placeholder={`${label} anything`}
        data={[
          { value: '', label: `${label} blank` },
          ...field.options.map((option) => ({ value: option.value, label: `${label} ${option.label}` })),
        ]}
        value={value ?? null}
        clearable
        onChange={(chosen) => put(chosen ?? undefined)}
      />
    );
  }
  return (
    <TextInput
      aria-label={label}
      placeholder={value === undefined ? `${label} anything` : `${label} blank`}
      value={value ?? ''}
      onChange={({ currentTarget }) => put(currentTarget.value === '' ? undefined : currentTarget.value)}
    />
  );
}
