import { decodeAny } from '../decode';
import { FormulaError } from '../error';
import { any } from '../type';
import { defineForm } from './define';

/** What reads the record of a file as the file has it. */
export const placeFunctions = [
  defineForm({
    name: 'PLACE',
    family: 'formats',
    meaning:
      'What stands at a place of the record of a file: the title of a column, a JSON Pointer, a path of elements, or a place in a tagged record. Several are a list.',
    parts: '"place"',
    examples: [
      { formula: 'PLACE("954$c")', gives: '{"12.50", "11.90"}' },
      { formula: 'VALUE(PLACE("954[1]$c")) * 100', gives: '1250' },
    ],
    source: 'own',
    flow: null,
    readsFile: true,
    type: (call, { scope }) => {
      const [part, ...others] = call.args;
      if (!scope.places)
        return new FormulaError(
          'name',
          'PLACE reads the record of a file; it can be used where a file is laid out.',
          call.place,
        );
      if (part?.kind !== 'text' || others.length > 0)
        return new FormulaError('type', 'PLACE takes one place, written as a text: PLACE("…").', call.place);
      const read = scope.places(part.value);
      if (!read.ok) return new FormulaError('name', read.because, part.place);
      return {
        node: call,
        type: any,
        children: [],
        run: ({ row }) => (row ? decodeAny(read.address.read(row)) : null),
      };
    },
  }),
];
