/** Gives the person a file that was made here, under a name. */
export function giveFile(name: string, type: string, content: string | Blob): void {
  const address = URL.createObjectURL(new Blob([content], { type }));
  const link = document.createElement('a');
  link.href = address;
  link.download = name;
  link.click();
  URL.revokeObjectURL(address);
}
