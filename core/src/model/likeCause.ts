/**
 * Returns a reason with what makes it that of one record set aside: quoted values, numbers, ids. Reasons that come to the same are one
 * cause.
 */
export function likeCause(because: string): string {
  return (
    because
      .replaceAll(/“[^”]*”/gu, '“…”')
      .replaceAll(/"[^"]*"/g, '"…"')
      .replaceAll(/[\p{L}\p{N}_-]*\p{N}[\p{L}\p{N}_.,:+-]*/gu, '…')
      // However many of them failed, the first says why.
      .replaceAll(/… (line|thing|write)s? (failed|were refused|was refused)/g, '… $2')
  );
}
