import { families, formulaFunctions, limits, signature } from '@vast-knot/core';

const inDigits = (number: number): string => number.toLocaleString('en');

const introduction = `# Formula reference

Made from the code by \`npm run docs\`; the examples are run as tests. Section numbers of the standard are from memory.

A formula gives one value. Names are the API names of fields: a bare name is a field of the triggering record,
\`before.phone\` what it held before, \`target.note\` what the written record holds now, \`party.id\` a field of what the find
\`party\` found, \`event.time\` a part of the event. A name that is no plain word stands in single quotes: \`'Home Port'\`.

Text stands in double quotes, a quote inside it twice. Lists stand in braces: \`{"open", "confirmed"}\`. Arguments are
separated by commas or semicolons. Operators, from the strongest: \`-\` (sign), \`%\`, \`^\`, \`* /\`, \`+ -\`, \`&\`, and
\`= <> < <= > >=\`; each level is read from the left (OASIS OpenFormula, ODF 1.3 part 4, section 5.5).

Blank is a value of its own. A function or operator that is given blank gives blank, but for \`&\`, \`=\` and \`<>\`, \`IF\`,
\`ISBLANK\`, \`COALESCE\` and \`TEXTJOIN\`. Empty text is blank. A condition that is blank does not hold.

A field that is a list of objects is read whole (\`lines\`) or field by field: \`lines.weight\` is the list of what its elements hold, blanks
left out, so that \`SUM(lines.weight)\` adds them up. EACH, KEEP and FIRST go through its elements, which are called \`item\` there:
\`FIRST(lines, item.weight > 100, item.goods)\`. What an element refers to cannot be followed. OBJECT makes an object, and with EACH a list of
them, to be written as a whole. Two lists of objects are equal where the change detector sees no difference: by the types of their
fields and, where the list names a key field, in any order; options of a multi-choice are equal in any order as well.

Sums and products are exact; a division, and a power with a broken or negative exponent, is rounded to 34 significant digits, halves
away from zero. Text is compared by code point after normalisation to NFC, with regard to case. An error is a value with a sentence
and a place; it is never written to a target.

A formula may have ${inDigits(limits.length)} characters, ${limits.depth} brackets and calls one inside the other and ${limits.height} parts in a chain. A number may
have ${inDigits(limits.digits)} digits, a text ${inDigits(limits.text)} characters and a list ${inDigits(limits.items)} elements. One computation may go through
${inDigits(limits.steps)} elements and make ${inDigits(limits.made)} characters of text in all its parts. What is beyond is an error, and so is whatever
a function cannot compute.
`;

/** The reference page of the formula language, one entry for each function. */
export function formulaReference(): string {
  const sections = families.map((family) => {
    const entries = formulaFunctions
      .filter((entry) => entry.family === family)
      .map((entry) => {
        const examples = entry.examples
          .map(({ formula, gives }) => `- \`${formula}\` gives \`${gives}\``)
          .join('\n');
        return `### ${entry.name}\n\n\`${signature(entry)}\`\n\n${entry.meaning}\n\n${examples}\n\nSource: ${entry.source}.\n`;
      });
    return `## ${family.charAt(0).toUpperCase()}${family.slice(1)}\n\n${entries.join('\n')}`;
  });
  return `${introduction}\n${sections.join('\n')}`;
}
