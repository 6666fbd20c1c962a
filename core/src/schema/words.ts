import pluralize from 'pluralize';

/** Returns the words of an API name: `postal_code`, `postalCode` and `PostalCode` are “postal code”. */
export function wordsOf(name: string): readonly string[] {
  return name
    .replace(/([\p{Ll}\d])(\p{Lu})/gu, '$1 $2')
    .replace(/(\p{Lu}+)(\p{Lu}\p{Ll})/gu, '$1 $2')
    .split(/[^\p{L}\p{N}]+/u)
    .filter((word) => word !== '');
}

/** Returns a label for an API name: “Postal code”. Short words in capitals stay as they are: “VAT number”. */
export function labelOf(name: string): string {
  const words = wordsOf(name).map((word) => (/^\p{Lu}{2,5}$/u.test(word) ? word : word.toLowerCase()));
  const text = words.join(' ');
  return text === '' ? name : text.charAt(0).toUpperCase() + text.slice(1);
}

/** Returns a name as it is compared with others: its words in the singular, without case. */
export function plainName(name: string): string {
  return wordsOf(name)
    .map((word) => pluralize.singular(word.toLowerCase()))
    .join(' ');
}

/** Returns the name of a record type for a collection: the last word in the singular, the others as they are. */
export function singularName(name: string): string {
  const words = wordsOf(name);
  const last = words.at(-1);
  if (last === undefined) return name;
  const singular = pluralize.singular(last);
  return singular === last
    ? name
    : name.slice(0, name.lastIndexOf(last)) + singular + name.slice(name.lastIndexOf(last) + last.length);
}

/** Returns the plural of a label: “Tariff zones”. */
export function pluralLabel(label: string): string {
  return pluralize.plural(label);
}
