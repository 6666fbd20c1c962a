import type { Find } from '@vast-knot/core';

/** How the parts of a find's clause change it. */
export interface FindEdits {
  readonly set: (change: Partial<Find>, part?: string) => void;
  readonly drop: (member: 'where' | 'order' | 'counterpart') => void;
}
