import { NativeSelect, NumberInput, TextInput } from '@mantine/core';
import { useState } from 'react';

interface TextProps {
  readonly label: string;
  readonly value: string | undefined;
  readonly onChange: (value: string) => void;
  readonly description?: string;
  readonly placeholder?: string;
  readonly mono?: boolean;
}

/** A text of a connection. */
export function Text({ label, value = '', onChange, description, placeholder, mono = false }: TextProps) {
  return (
    <TextInput
      label={label}
      value={value}
      onChange={(event) => onChange(event.currentTarget.value)}
      {...(description !== undefined && { description })}
      {...(placeholder !== undefined && { placeholder })}
      {...(mono && { classNames: { input: 'mono' } })}
      maxLength={500}
      mb={8}
    />
  );
}

/**
 * A text that is read as a whole, such as a list: it counts when one leaves it or presses Enter, so that half a list is not read while it is
 * typed.
 */
export function WholeText({ value = '', onChange, ...props }: TextProps) {
  const [typed, setTyped] = useState<string>();
  const commit = () => {
    if (typed !== undefined && typed !== value) onChange(typed);
    setTyped(undefined);
  };
  return (
    <div onBlur={commit} onKeyDown={(event) => event.key === 'Enter' && commit()}>
      <Text {...props} value={typed ?? value} onChange={setTyped} />
    </div>
  );
}

/** Returns the names in a text with commas between; undefined for none. */
export function namesIn(text: string): readonly string[] | undefined {
  const names = text
    .split(',')
    .map((name) => name.trim())
    .filter((name) => name !== '');
  return names.length === 0 ? undefined : names;
}

/** A text that may be left out: blank is none. */
export function OptionalText({
  onChange,
  ...props
}: Omit<TextProps, 'onChange'> & { readonly onChange: (value: string | undefined) => void }) {
  return <Text {...props} onChange={(value) => onChange(value === '' ? undefined : value)} />;
}

interface CountProps {
  readonly label: string;
  readonly value: number | undefined;
  readonly onChange: (value: number) => void;
  readonly min?: number;
  readonly max?: number;
}

/** A whole number of a connection. */
export function Count({ label, value, onChange, min = 1, max = 100_000 }: CountProps) {
  return (
    <NumberInput
      label={label}
      value={value ?? ''}
      min={min}
      max={max}
      allowDecimal={false}
      onChange={(next) => typeof next === 'number' && onChange(next)}
      mb={8}
    />
  );
}

interface ChoiceProps<T extends string> {
  readonly label: string;
  readonly value: T;
  readonly options: readonly { readonly value: T; readonly label: string }[];
  readonly onChange: (value: T) => void;
  readonly description?: string;
}

/** One of a few. */
export function Choice<T extends string>({ label, value, options, onChange, description }: ChoiceProps<T>) {
  return (
    <NativeSelect
      label={label}
      value={value}
      data={options.map((each) => ({ ...each }))}
      onChange={(event) => {
        const found = options.find((each) => each.value === event.currentTarget.value);
        if (found) onChange(found.value);
      }}
      {...(description !== undefined && { description })}
      mb={8}
    />
  );
}

interface KindProps<F extends { readonly kind: string }> {
  readonly label: string;
  readonly value: F | undefined;
  readonly family: readonly { readonly kind: F['kind']; readonly label: string; readonly meaning: string }[];
  readonly beginnings: Readonly<Record<string, F>>;
  readonly onChange: (value: F | undefined) => void;
  /** What is chosen where there is none; without it there must be one. */
  readonly none?: string;
}

/** A style of a family, with the sentence that says what it means. */
export function Kind<F extends { readonly kind: string }>({
  label,
  value,
  family,
  beginnings,
  onChange,
  none,
}: KindProps<F>) {
  const options = [
    ...(none === undefined ? [] : [{ value: '', label: none }]),
    ...family.map((each) => ({ value: each.kind, label: each.label })),
  ];
  const meaning = family.find(({ kind }) => kind === value?.kind)?.meaning;
  return (
    <Choice<string>
      label={label}
      value={value?.kind ?? ''}
      options={options}
      onChange={(kind) => onChange(beginnings[kind])}
      {...(meaning !== undefined && { description: meaning })}
    />
  );
}
