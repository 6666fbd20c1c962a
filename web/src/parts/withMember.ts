/** Returns an object with another value of a member; without a value the member is taken out. */
export function withMember<T extends object, K extends keyof T>(
  object: T,
  name: K,
  value: T[K] | undefined,
): T {
  const { [name]: _before, ...rest } = object;
  return (value === undefined ? rest : { ...rest, [name]: value }) as T;
}
