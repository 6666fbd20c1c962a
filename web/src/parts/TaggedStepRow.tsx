import { ActionIcon, Button, TextInput } from '@mantine/core';
import { IconX } from '@tabler/icons-react';
import type { Right, TaggedStep } from '@vast-knot/core';
import { useMay } from '../frame/useMay';

interface TaggedStepRowProps {
  readonly step: TaggedStep;
  readonly problem: string | undefined;
  /** The right that changing it wants. */
  readonly right: Right;
  readonly change: (step: TaggedStep) => void;
  /** Absent where it is taken away by another press. */
  readonly remove?: () => void;
}

/** One step of a tidy: what is done, and only if what. */
export function TaggedStepRow({ step, problem, right, change, remove }: TaggedStepRowProps) {
  const mayChange = useMay(right);
  const text = (label: string, value: string, put: (value: string) => TaggedStep, placeholder = '') => (
    <TextInput
      size="xs"
      className="mono-input"
      label={label}
      placeholder={placeholder}
      value={value}
      readOnly={!mayChange}
      onChange={({ currentTarget }) => change(put(currentTarget.value))}
    />
  );
  return (
    <div className="tidy-step">
      <div className="tidy-parts">
        {step.kind === 'remove' &&
          text('Remove the fields', step.what, (what) => ({ ...step, what }), '59* or 954$c')}
        {step.kind === 'put' && (
          <>
            {text('Put, from', step.at, (at) => ({ ...step, at }), '007/3')}
            {text('the characters', step.characters, (characters) => ({ ...step, characters }))}
          </>
        )}
        {step.kind === 'add' && (
          <>
            {text('Add the field', step.tag, (tag) => ({ ...step, tag }), '856')}
            {text('with the indicators', step.indicators, (indicators) => ({ ...step, indicators }), '##')}
          </>
        )}
        {text('only if', step.only, (only) => ({ ...step, only }), 'always; or PLACE("310$a") = "HTRN"')}
        {mayChange && remove && (
          <ActionIcon variant="subtle" color="rust" aria-label="Take the step away" onClick={remove}>
            <IconX size={14} />
          </ActionIcon>
        )}
      </div>
      {step.kind === 'add' && (
        <div className="tidy-subfields">
          {step.subfields.map((subfield, at) => {
            const put = (part: Partial<typeof subfield>): TaggedStep => ({
              ...step,
              subfields: step.subfields.map((each, place) => (place === at ? { ...each, ...part } : each)),
            });
            return (
              <div key={at} className="tidy-parts">
                {text('Subfield', subfield.code, (code) => put({ code }), 'a')}
                {text(
                  'which holds',
                  subfield.text,
                  (held) => put({ text: held }),
                  'a text, or =PLACE("001")',
                )}
                {mayChange && (
                  <ActionIcon
                    variant="subtle"
                    color="rust"
                    aria-label={`Take the subfield ${subfield.code} away`}
                    onClick={() =>
                      change({ ...step, subfields: step.subfields.filter((_each, place) => place !== at) })
                    }
                  >
                    <IconX size={14} />
                  </ActionIcon>
                )}
              </div>
            );
          })}
          {mayChange && (
            <Button
              variant="subtle"
              size="compact-sm"
              onClick={() => change({ ...step, subfields: [...step.subfields, { code: '', text: '' }] })}
            >
              One subfield more
            </Button>
          )}
        </div>
      )}
      {problem !== undefined && (
        <p className="flush small value wrong" role="note">
          {problem}
        </p>
      )}
    </div>
  );
}
