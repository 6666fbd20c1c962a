import { Tooltip } from '@mantine/core';
import { memo, type CSSProperties } from 'react';
import { useSystems } from '../api/queries';

interface SystemTagProps {
  readonly system: string;
  /** Whether its name stands beside the letters. */
  readonly named?: boolean;
}

/** A system's two letters in its hue; its name stands beside it or in the hint. */
export const SystemTag = memo(function SystemTag({ system, named = false }: SystemTagProps) {
  const found = useSystems().data?.find(({ key }) => key === system);
  const tag = (
    <span className="tag" style={hueOf(found?.hue)}>
      {found?.tag ?? '??'}
    </span>
  );
  if (named) {
    return (
      <span className="nowrap">
        {tag} {found?.name ?? system}
      </span>
    );
  }
  return <Tooltip label={found?.name ?? system}>{tag}</Tooltip>;
});

/** Returns the style that gives an element a system's hue. */
export function hueOf(hue: number | undefined): CSSProperties {
  return { '--hue': hue ?? 60 } as CSSProperties;
}
