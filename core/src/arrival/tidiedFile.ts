import { fileFormat } from '../formats/files';
import { writeTagged } from '../formats/files/tagged';
import type { Layout } from './layout';
import { compileTidy } from '../engine/tidyTagged';

/**
 * Returns the records of a tagged file as its layout tidies them, in the form of the file (ISO 2709), in Unicode. A record that cannot be read,
 * or for which the form has no room any more, is left out: the file that came still has it.
 */
export async function* tidiedFile(
  bytes: AsyncIterable<Uint8Array>,
  { file, tidy: steps = [] }: Layout,
  cameAt: Date,
): AsyncGenerator<Uint8Array> {
  const { tidy } = compileTidy(steps);
  const encoder = new TextEncoder();
  const time = cameAt.toISOString();
  for await (const rows of fileFormat(file).read(bytes, file))
    for (const row of rows) {
      if (!row.ok) continue;
      const { leader, fields } = tidy(row.value, { time }).record;
      const written = writeTagged(
        { leader: `${leader.slice(0, 9)}a${leader.slice(10)}`, fields: [...fields] },
        (text) => encoder.encode(text),
      );
      if (written.ok) yield written.bytes;
    }
}
