import { Slider } from '@mantine/core';
import type { ConnectionDraft, SheetConnection } from '@vast-knot/core';
import { Phrase } from '../../parts/Phrase';
import { hueOf } from '../../parts/SystemTag';
import { Clause } from '../Clause';
import { Text } from '../Inputs';
import type { SheetParts } from '../sheetParts';

/** How the system is shown, and by what name formulas and bundles know it. */
export function Identity<C extends SheetConnection>({ draft, found, view }: SheetParts<C>) {
  const { system } = draft.body;
  const set = (change: Partial<ConnectionDraft['system']>, part: string) =>
    draft.edit((body) => ({ ...body, system: { ...body.system, ...change } }), part);
  return (
    <Clause word="It is" findings={found('system/')}>
      shown as{' '}
      <Phrase
        right="systems.change"
        label="Letters and colour of the system"
        says={
          <span className="tag" style={hueOf(system.hue)}>
            {system.tag}
          </span>
        }
      >
        <Text
          label="Letters"
          value={system.tag}
          onChange={(tag) => set({ tag: tag.toUpperCase().slice(0, 2) }, 'tag')}
          description="Two capital letters that no other system has."
        />
        <div className="field-label">Hue</div>
        <Slider
          label={null}
          thumbLabel="Hue of the system"
          min={0}
          max={359}
          value={system.hue}
          onChange={(hue) => set({ hue }, 'hue')}
          mb={10}
        />
      </Phrase>{' '}
      and known to formulas and bundles as{' '}
      {view.system !== null ? (
        <span className="mono">{system.key}</span>
      ) : (
        <Phrase
          right="systems.change"
          label="Key of the system"
          says={<span className="mono">{system.key}</span>}
        >
          <Text
            label="Key"
            mono
            value={system.key}
            onChange={(key) => set({ key: key.toLowerCase() }, 'key')}
            description="Small letters, digits and dashes. It stays when the name changes."
          />
        </Phrase>
      )}
    </Clause>
  );
}
