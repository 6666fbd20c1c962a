import { Button, Checkbox, Select, Textarea, TextInput } from '@mantine/core';
import { fieldTypes, type Field, type FieldType, type Trigger } from '@vast-knot/core';
import { optionLines, optionsIn } from '../../parts/optionLines';
import { Phrase } from '../../parts/Phrase';

const askable = fieldTypes.filter((type) => !['reference', 'object'].includes(type));

/** What the person is asked who runs the rule on a record; formulas read it as `input.…`. */
export function Inputs({
  inputs,
  set,
}: {
  readonly inputs: readonly Field[];
  readonly set: (change: Partial<Trigger>) => void;
}) {
  const change = (next: readonly Field[]) => set({ inputs: next });
  const put = (at: number, part: Partial<Field>) =>
    change(inputs.map((input, each) => (each === at ? { ...input, ...part } : input)));
  return (
    <>
      {', who is asked for '}
      <Phrase
        says={inputs.length === 0 ? 'nothing' : inputs.map(({ label }) => label).join(', ')}
        label="What the person is asked for"
        width={520}
      >
        {inputs.map((input, at) => (
          <div key={at} className="turn">
            <TextInput
              aria-label="Name in formulas"
              value={input.name}
              onChange={({ currentTarget: { value } }) => put(at, { name: value })}
            />
            <TextInput
              aria-label="Question"
              value={input.label}
              onChange={({ currentTarget: { value } }) => put(at, { label: value })}
            />
            <Select
              aria-label="Kind of answer"
              data={askable}
              value={input.type}
              onChange={(chosen) => {
                const type = askable.find((each) => each === chosen);
                if (type) change(inputs.map((each, place) => (place === at ? retyped(each, type) : each)));
              }}
            />
            {hasOptions(input.type) && (
              <Textarea
                aria-label="Answers to choose from"
                description="One to a line: the value, or value = what people read"
                autosize
                minRows={2}
                defaultValue={optionLines(input.options ?? [])}
                onBlur={({ currentTarget: { value } }) => put(at, { options: optionsIn(value) })}
              />
            )}
            <span className="side-by-side">
              <Checkbox
                label="needed"
                size="xs"
                checked={input.required ?? false}
                onChange={({ currentTarget: { checked } }) => put(at, { required: checked })}
              />
              <Button
                variant="subtle"
                color="rust"
                size="compact-xs"
                onClick={() => change(inputs.filter((_input, each) => each !== at))}
              >
                Remove
              </Button>
            </span>
          </div>
        ))}
        <Button
          variant="subtle"
          size="compact-xs"
          onClick={() =>
            change([
              ...inputs,
              { name: `answer${inputs.length + 1}`, label: `Answer ${inputs.length + 1}`, type: 'text' },
            ])
          }
        >
          Ask for something
        </Button>
      </Phrase>
    </>
  );
}

function hasOptions(type: FieldType): boolean {
  return type === 'choice' || type === 'multichoice';
}

function retyped({ options, ...input }: Field, type: FieldType): Field {
  return { ...input, type, ...(hasOptions(type) && { options: options ?? [] }) };
}
