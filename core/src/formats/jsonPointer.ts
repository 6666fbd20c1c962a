/** Returns the JSON Pointer (RFC 6901) of a dotted path: `address.town` is `/address/town`. */
export function pointerOfPath(path: string): string {
  return path
    .split('.')
    .map((step) => `/${step.replaceAll('~', '~0').replaceAll('/', '~1')}`)
    .join('');
}

/** Returns the steps of a JSON Pointer (RFC 6901, section 4), or undefined when the text is none. */
export function stepsOfPointer(pointer: string): string[] | undefined {
  if (pointer === '') return [];
  if (!pointer.startsWith('/') || /~(?![01])/.test(pointer)) return undefined;
  return pointer
    .slice(1)
    .split('/')
    .map((step) => step.replaceAll('~1', '/').replaceAll('~0', '~'));
}

/** Returns what a document holds at a JSON Pointer; undefined where there is nothing. Only own members count. */
export function readPointer(document: unknown, pointer: string): unknown {
  const steps = stepsOfPointer(pointer);
  if (!steps) return undefined;
  let here: unknown = document;
  for (const step of steps) {
    if (Array.isArray(here)) here = /^(0|[1-9]\d*)$/.test(step) ? here[Number(step)] : undefined;
    else if (isObject(here) && Object.hasOwn(here, step)) here = here[step];
    else return undefined;
  }
  return here;
}

function isObject(value: unknown): value is Record<string, unknown> {
  return typeof value === 'object' && value !== null;
}
