import { PasswordInput, Select, TextInput } from '@mantine/core';
import type { SlotView } from '@vast-knot/core';
import { useEndpoints, useSystems } from '../api/queries';
import { useMay } from '../frame/useMay';
import { count } from '../parts/time';
import type { Said } from './said';

interface SlotsProps {
  readonly slots: readonly SlotView[];
  readonly said: Said;
  readonly say: (said: Said) => void;
}

const fresh = ' new';

/** What stands here for each system and outside address that the files name. */
export function Slots({ slots, said, say }: SlotsProps) {
  if (slots.length === 0) return null;
  return (
    <section aria-label="What stands for what">
      <h3>What stands for what here</h3>
      {slots.map((slot) => (
        <Slot key={`${slot.kind} ${slot.key}`} slot={slot} said={said} say={say} />
      ))}
    </section>
  );
}

function Slot({
  slot,
  said,
  say,
}: {
  readonly slot: SlotView;
  readonly said: Said;
  readonly say: SlotsProps['say'];
}) {
  const { kind, key, name, to, isNew, schema } = slot;
  const systems = useSystems().data ?? [];
  const addresses = useEndpoints().data ?? [];
  const mayMake = useMay(kind === 'system' ? 'systems.change' : 'endpoints.change');
  const here = kind === 'system' ? systems.filter((each) => each.key !== 'vast-knot') : addresses;
  const bind = (next: string) => {
    if (kind === 'system')
      say({
        ...said,
        systems: {
          ...said.systems,
          [key]: next === fresh ? { is: 'new', baseUrl: '' } : { is: 'bound', to: next },
        },
      });
    else
      say({
        ...said,
        addresses: {
          ...said.addresses,
          [key]: next === fresh ? { is: 'new', url: '' } : { is: 'bound', to: next },
        },
      });
  };
  return (
    <div className="slot">
      <Select
        label={
          <>
            {name} <code className="dim">{key}</code>
          </>
        }
        aria-label={`What stands for ${name}`}
        placeholder="nothing yet"
        error={to === null && !isNew}
        data={[
          ...here.map((each) => ({ value: each.key, label: each.name })),
          ...(mayMake
            ? [{ value: fresh, label: kind === 'system' ? 'A new connection' : 'A new address' }]
            : []),
        ]}
        value={isNew ? fresh : to}
        onChange={(next) => next !== null && bind(next)}
        allowDeselect={false}
      />
      {isNew && <NewSlot slot={slot} said={said} say={say} />}
      {schema.length > 0 && (
        <details>
          <summary>{count(schema.length, 'field')} not as where it comes from</summary>
          <ul className="small">
            {schema.slice(0, 100).map(({ what, type, field = '', how }) => (
              <li key={`${type} ${field} ${what}`}>
                <code>
                  {type}
                  {field !== '' && `.${field}`}
                </code>{' '}
                {what === 'went' ? 'is not here' : how}
              </li>
            ))}
          </ul>
        </details>
      )}
    </div>
  );
}

function NewSlot({
  slot: { kind, key, name },
  said,
  say,
}: {
  readonly slot: SlotView;
  readonly said: Said;
  readonly say: SlotsProps['say'];
}) {
  if (kind === 'address') {
    const known = said.addresses[key];
    return (
      <TextInput
        aria-label={`Address of ${name}`}
        placeholder="https://"
        value={known?.is === 'new' ? known.url : ''}
        onChange={({ currentTarget }) =>
          say({ ...said, addresses: { ...said.addresses, [key]: { is: 'new', url: currentTarget.value } } })
        }
      />
    );
  }
  const known = said.systems[key];
  const now = known?.is === 'new' ? known : { is: 'new' as const, baseUrl: '' };
  const put = (change: { readonly baseUrl?: string; readonly token?: string }) =>
    say({ ...said, systems: { ...said.systems, [key]: { ...now, ...change } } });
  return (
    <>
      <TextInput
        aria-label={`Address of ${name}`}
        placeholder="https://"
        value={now.baseUrl}
        onChange={({ currentTarget }) => put({ baseUrl: currentTarget.value })}
      />
      <PasswordInput
        aria-label={`Secret of ${name}`}
        placeholder="The secret that signs us in, where it wants one"
        autoComplete="off"
        value={now.token ?? ''}
        onChange={({ currentTarget }) => put({ token: currentTarget.value })}
      />
      <p className="small dim flush">It is paused at first: look at its connection, then let it go on.</p>
    </>
  );
}
