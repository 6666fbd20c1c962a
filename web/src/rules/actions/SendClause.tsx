import { Button, Select, TextInput } from '@mantine/core';
import type { Json, MessagePart, SendAction } from '@vast-knot/core';
import { readPath } from '@vast-knot/core';
import { useEndpoints } from '../../api/queries';
import { useMay } from '../../frame/useMay';
import { Value } from '../../parts/Value';
import { ClauseFormula } from '../formula/ClauseFormula';
import { ActionTitle } from './ActionTitle';
import type { ClauseProps } from './clauseProps';
import { OnlyWhen } from './OnlyWhen';
import { useSetAction } from './useSetAction';

/** “then send a message to …”: the parts of its data, each with what it would be for the present sample. */
export function SendClause({ at, action, body, steps }: ClauseProps<SendAction>) {
  const setAction = useSetAction(at, 'send');
  const mayChange = useMay('rules.edit');
  const endpoints = useEndpoints().data ?? [];
  const message = steps.find((step) => step.kind === 'message')?.message;
  const setPart = (index: number, change: Partial<MessagePart>) =>
    setAction(
      (known) => ({
        ...known,
        parts: known.parts.map((part, each) => (each === index ? { ...part, ...change } : part)),
      }),
      `part ${at}/${index}`,
    );
  return (
    <>
      <span className="ledger-title">
        <ActionTitle at={at} count={body.actions.length}>
          send a message to{' '}
          <Select
            aria-label="Endpoint"
            placeholder="an endpoint"
            data={endpoints.map(({ key, name }) => ({ value: key, label: name }))}
            value={action.endpoint}
            disabled={!mayChange}
            onChange={(endpoint) => endpoint !== null && setAction((known) => ({ ...known, endpoint }))}
            w={190}
          />{' '}
          of the type{' '}
          <TextInput
            aria-label="Type of the message"
            value={action.type}
            readOnly={!mayChange}
            onChange={({ currentTarget: { value } }) =>
              setAction((known) => ({ ...known, type: value }), `type ${at}`)
            }
            w={260}
          />
        </ActionTitle>
        <OnlyWhen at={at} only={action.only ?? ''} />
      </span>
      <table className="grid boxed" aria-label="Data of the message">
        <thead>
          <tr>
            <th className="of24">Name in the message</th>
            <th className="of42">How its value is made</th>
            <th>Would be</th>
            <th className="w80" />
          </tr>
        </thead>
        <tbody>
          {action.parts.map((part, index) => (
            <tr key={index}>
              <td>
                <TextInput
                  aria-label={`Name of part ${index + 1}`}
                  value={part.name}
                  readOnly={!mayChange}
                  onChange={({ currentTarget: { value } }) => setPart(index, { name: value })}
                />
              </td>
              <td>
                <ClauseFormula
                  place={`actions/${at}/parts/${index}/formula`}
                  value={part.formula}
                  label={`Value of ${part.name}`}
                  placeholder="a formula, such as name"
                  onChange={(formula) => setPart(index, { formula })}
                />
              </td>
              <td>{message && <Value json={valueIn(message.data, part.name)} />}</td>
              <td>
                {mayChange && (
                  <Button
                    variant="subtle"
                    color="rust"
                    size="compact-xs"
                    aria-label={`Remove ${part.name}`}
                    onClick={() =>
                      setAction((known) => ({
                        ...known,
                        parts: known.parts.filter((_part, each) => each !== index),
                      }))
                    }
                  >
                    Remove
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {mayChange && (
        <Button
          variant="subtle"
          size="compact-xs"
          onClick={() =>
            setAction((known) => ({
              ...known,
              parts: [...known.parts, { name: freeName(known.parts), formula: '' }],
            }))
          }
        >
          Add a value
        </Button>
      )}
    </>
  );
}

function valueIn(data: SendData, name: string): Json {
  return readPath(data, name) ?? null;
}
type SendData = Parameters<typeof readPath>[0];

function freeName(parts: readonly MessagePart[]): string {
  let number = parts.length + 1;
  while (parts.some(({ name }) => name === `value${number}`)) number++;
  return `value${number}`;
}
