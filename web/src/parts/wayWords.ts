import type { FileWay } from '@vast-knot/core';

/** Returns where a file goes, as it is said behind it. */
export function wayWords(way: FileWay, endpoint: string): string {
  switch (way) {
    case 'folder':
      return `into the folder ${endpoint}`;
    case 'address':
      return `to ${endpoint}`;
    case 'download':
      return 'for people to take';
  }
}
