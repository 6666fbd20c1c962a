import { Tooltip } from '@mantine/core';
import type { CSSProperties } from 'react';
import { useSystems } from '../api/queries';

/** A system's two letters in its hue; its name stands beside it or in the hint. */
export function SystemTag({ system, named = false }: { readonly system: string; readonly named?: boolean }) {
  const found = useSystems().data?.find(({ key }) => key === system);
  const tag = (
    <span className="tag" style={hueOf(found?.hue)}>
      {found?.tag ?? '??'}
    </span>
  );
  if (named) {
    return (
      <span style={{ whiteSpace: 'nowrap' }}>
        {tag} {found?.name ?? system}
      </span>
    );
  }
  return <Tooltip label={found?.name ?? system}>{tag}</Tooltip>;
}

/** The style that gives an element a system's hue. */
export function hueOf(hue: number | undefined): CSSProperties {
  return { '--hue': hue ?? 60 } as CSSProperties;
}
