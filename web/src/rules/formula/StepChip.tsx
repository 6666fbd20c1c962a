import { Button, Popover, TextInput } from '@mantine/core';
import { useState } from 'react';
import { FormulaError, print, stepWords, type Chain, type ChainStep } from '@vast-knot/core';
import { useMay } from '../../frame/useMay';
import { argumentNames, movedStep, stepMeaning, withArgument, withoutStep } from './stepEdits';

interface StepChipProps {
  readonly chain: Chain;
  readonly step: ChainStep;
  readonly at: number;
  readonly onChange: (formula: string) => void;
}

/** One step of a formula: pressed, it says what it does and lets its arguments be changed. */
export function StepChip({ chain, step, at, onChange }: StepChipProps) {
  const [open, setOpen] = useState(false);
  const mayChange = useMay('rules.edit');
  const close = (formula: string) => {
    setOpen(false);
    onChange(formula);
  };
  const chip = (
    <button
      type="button"
      className="chip"
      aria-label={`Step ${at + 1}: ${stepWords(step)}`}
      aria-expanded={open}
      disabled={!mayChange}
      onClick={() => setOpen(!open)}
    >
      {stepWords(step)}
    </button>
  );
  // What opens is made only then: the line at hand is drawn with every keystroke.
  if (!open) return chip;
  return (
    <Popover opened onChange={setOpen} width={290} position="bottom-start">
      <Popover.Target>{chip}</Popover.Target>
      <Popover.Dropdown>
        <strong className="mono">{step.name}</strong>
        <div className="small dim">{stepMeaning(step)}</div>
        {argumentNames(step).map((name, index) => (
          <Argument
            key={index}
            name={name}
            text={step.args[index] ? print(step.args[index]) : ''}
            last={index >= step.args.length}
            put={(text) => withArgument(chain, at, index, text)}
            onChange={onChange}
          />
        ))}
        <div className="step-buttons">
          <Button variant="subtle" disabled={at === 0} onClick={() => close(movedStep(chain, at, -1))}>
            Earlier
          </Button>
          <Button
            variant="subtle"
            disabled={at === chain.steps.length - 1}
            onClick={() => close(movedStep(chain, at, 1))}
          >
            Later
          </Button>
          <Button variant="subtle" color="rust" onClick={() => close(withoutStep(chain, at))}>
            Remove
          </Button>
        </div>
      </Popover.Dropdown>
    </Popover>
  );
}

interface ArgumentProps {
  readonly name: string;
  readonly text: string;
  /** Whether it is not given yet. */
  readonly last: boolean;
  readonly put: (text: string) => string | FormulaError;
  readonly onChange: (formula: string) => void;
}

function Argument({ name, text, last, put, onChange }: ArgumentProps) {
  const [typed, setTyped] = useState<string>();
  const [problem, setProblem] = useState<string>();
  const take = (value: string) => {
    setTyped(value);
    if (value.trim() === '' && last) return;
    const formula = put(value);
    setProblem(formula instanceof FormulaError ? formula.message : undefined);
    if (!(formula instanceof FormulaError)) onChange(formula);
  };
  return (
    <TextInput
      label={name}
      mt={6}
      value={typed ?? text}
      placeholder={last ? 'not given' : ''}
      error={problem}
      onChange={(event) => take(event.currentTarget.value)}
      onBlur={() => problem === undefined && setTyped(undefined)}
      styles={{ input: { fontFamily: 'var(--mono)' } }}
    />
  );
}
