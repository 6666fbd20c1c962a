/** Bytes of a name in UTF-8 that common file systems take, with room for a number behind it (common practice, no source). */
const longest = 200;
/** Names that a common operating system keeps for devices (common practice, no source). */
const devices = /^(con|prn|aux|nul|com\d|lpt\d)(\.|$)/i;

/** Returns why a text cannot be the name of a file in a folder, as the end of a sentence; undefined where it can. */
export function fileNameProblem(name: string): string | undefined {
  if (name === '') return 'its name is blank.';
  if (/[\\/:*?"<>|]/.test(name)) return `“${name}” cannot be its name: it holds one of \\ / : * ? " < > |.`;
  // eslint-disable-next-line no-control-regex -- these are what is looked for
  if (/[\u0000-\u001f\u007f]/.test(name)) return 'its name holds a sign that cannot be seen.';
  if (name.startsWith('.')) return `“${name}” cannot be its name: it begins with a point.`;
  if (/[. ]$/.test(name)) return `“${name}” cannot be its name: it ends with a point or a space.`;
  if (devices.test(name)) return `“${name}” cannot be its name: some computers keep it for a device.`;
  if (new TextEncoder().encode(name).length > longest) return `its name is longer than ${longest} bytes.`;
  return undefined;
}
