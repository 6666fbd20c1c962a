import { equalValues } from '../compare';
import { boolean } from '../type';
import { isList, type Value } from '../value';
import { anyParam, define } from './define';

export const listFunctions = [
  define({
    name: 'ONEOF',
    family: 'lists',
    meaning: 'Whether a value is among others, or in a list.',
    params: [anyParam('value')],
    rest: anyParam('among'),
    result: boolean,
    examples: [
      { formula: 'ONEOF("open", "open", "confirmed")', gives: 'TRUE' },
      { formula: 'ONEOF(3, {1, 2})', gives: 'FALSE' },
    ],
    source: 'own',
    call: ([value, ...among]) => {
      const flat = (among as Value[]).flatMap((item) => (isList(item) ? item : [item]));
      return flat.some((item) => equalValues(value, item) === true);
    },
  }),
];
