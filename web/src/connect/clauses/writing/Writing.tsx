import type { TypeParts } from '../../sheetParts';
import { Changed } from './Changed';
import { Created } from './Created';
import { Guarded } from './Guarded';
import { One } from './One';
import { Removed } from './Removed';

/** How one record is read, changed, created and removed, and what guards that. */
export function Writing(parts: TypeParts) {
  return (
    <>
      <One {...parts} />
      <Guarded {...parts} />
      <Changed {...parts} />
      <Created {...parts} />
      <Removed {...parts} />
    </>
  );
}
