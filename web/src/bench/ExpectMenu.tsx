import { ActionIcon, Button, Menu, TextInput } from '@mantine/core';
import { IconChevronDown } from '@tabler/icons-react';
import { useCallback, useContext, useRef, useState } from 'react';
import type { Expectation, Field, Json } from '@vast-knot/core';
import { FieldInput } from '../systems/FieldInput';
import { usePressOutside } from '../parts/usePressOutside';
import { Expecting } from './expecting';

interface ExpectMenuProps {
  readonly thing: string;
  readonly path: string;
  readonly label: string;
  /** The field of the record; absent for a part of a message. */
  readonly field: Field | undefined;
  readonly got: Json | undefined;
  readonly expected: Expectation | undefined;
}

/** What one field is expected to be: as it came out, or less strictly. */
export function ExpectMenu({ thing, path, label, field, got, expected }: ExpectMenuProps) {
  const expect = useContext(Expecting);
  const [open, setOpen] = useState(false);
  const button = useRef<HTMLButtonElement>(null);
  const close = useCallback(() => setOpen(false), []);
  usePressOutside(open, button, close);
  if (!expect) return null;
  const say = (expectation: Expectation | undefined) => {
    setOpen(false);
    expect(thing, path, expectation);
  };
  const isNumber = typeof got === 'number' || (typeof got === 'string' && /^-?\d+(\.\d+)?$/.test(got));
  return (
    <Menu opened={open} onChange={setOpen} position="bottom-end" width={300} closeOnClickOutside={false}>
      <Menu.Target>
        <ActionIcon ref={button} variant="subtle" size="sm" aria-label={`What is expected of ${label}`}>
          <IconChevronDown size={13} />
        </ActionIcon>
      </Menu.Target>
      <Menu.Dropdown>
        {got !== undefined && (
          <Menu.Item onClick={() => say({ is: 'equal', value: got })}>Expect this value</Menu.Item>
        )}
        <Menu.Item onClick={() => say({ is: 'any' })}>Any value will do</Menu.Item>
        <Menu.Item onClick={() => say({ is: 'blank' })}>It must be blank</Menu.Item>
        <Menu.Item onClick={() => say(undefined)}>It must not change</Menu.Item>
        <Menu.Divider />
        <Typing
          // Of what is no record's, a text is expected.
          field={field ?? { name: path, label, type: 'text' }}
          start={expected?.is === 'equal' ? expected.value : got}
          onSay={(value) => say({ is: 'equal', value })}
        />
        <Saying
          label="A text that matches"
          start={expected?.is === 'matching' ? expected.pattern : ''}
          onSay={(pattern) => say({ is: 'matching', pattern })}
        />
        {isNumber && (
          <Saying
            label="This number, give or take"
            start={expected?.is === 'near' ? expected.within : ''}
            fits={/^\d+(\.\d+)?$/}
            onSay={(within) => say({ is: 'near', value: String(got), within })}
          />
        )}
      </Menu.Dropdown>
    </Menu>
  );
}

interface TypingProps {
  readonly field: Field;
  readonly start: Json | undefined;
  readonly onSay: (value: Json) => void;
}

/** A value that is typed or chosen, as the field holds it. */
function Typing({ field, start, onSay }: TypingProps) {
  const [value, setValue] = useState<Json>(start ?? null);
  return (
    <form
      className="saying"
      onSubmit={(event) => {
        event.preventDefault();
        onSay(value);
      }}
      // The menu would take letters as the beginning of an item.
      onKeyDown={(event) => event.key !== 'Escape' && event.stopPropagation()}
    >
      <div>
        <span className="small">This value</span>
        <FieldInput
          field={field}
          label={`Value that is expected of ${field.label}`}
          json={value}
          changed={false}
          onChange={setValue}
          onEnter={() => undefined}
        />
      </div>
      <Button type="submit" size="xs" variant="default">
        Expect it
      </Button>
    </form>
  );
}

interface SayingProps {
  readonly label: string;
  readonly start: string;
  readonly fits?: RegExp;
  readonly onSay: (text: string) => void;
}

function Saying({ label, start, fits = /./, onSay }: SayingProps) {
  const [text, setText] = useState(start);
  return (
    <form
      className="saying"
      onSubmit={(event) => {
        event.preventDefault();
        if (fits.test(text)) onSay(text);
      }}
    >
      <TextInput
        size="xs"
        label={label}
        value={text}
        onChange={({ currentTarget: { value } }) => setText(value)}
        // The menu would take letters as the beginning of an item.
        onKeyDown={(event) => event.stopPropagation()}
      />
      <Button type="submit" size="xs" variant="default" disabled={!fits.test(text)}>
        Expect
      </Button>
    </form>
  );
}
