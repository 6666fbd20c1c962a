import { answerOf, compileForm, formPage, proposeForm, type RecordType } from '@vast-knot/core';

const type: RecordType = {
  name: 'wish',
  label: 'Wish',
  plural: 'Wishes',
  idField: 'number',
  nameField: 'number',
  fields: [
    { name: 'number', label: 'Number', type: 'text', readOnly: true },
    { name: 'short "<b>"', label: '<i>Short</i> & "sweet"', type: 'text', maxLength: 40 },
    { name: 'long', label: 'Long', type: 'text' },
    {
      name: 'care',
      label: 'Care',
      type: 'multichoice',
      options: [
        { value: '"><script>', label: '</label><b>' },
        { value: "it's", label: 'It’s & is' },
      ],
    },
  ],
};
const compiled = compileForm({ ...proposeForm(type, { address: 'wish', zone: 'UTC' }), title: '<h2>' }, type);
const alphabet = ['<', '>', '&', '"', "'", '/', 'a', '=', ' ', '`', '&lt;', '&#39;', '\u00e9', '\u{1f6a2}'];

/** The parser of the browser as the reader: what a page says is what it is read as. */
const opened = (given: Record<string, string | string[]>) => {
  const answered = answerOf(compiled, given, { time: '2026-03-09T10:00:00Z' });
  const html = formPage({ compiled, given, answered, problems: answered.problems, pass: 'p' });
  return new DOMParser().parseFromString(html, 'text/html');
};

test('whatever was typed stands in its input again, and is nothing else', () => {
  for (let seed = 1; seed < 300; seed++) {
    let state = seed;
    const text = Array.from({ length: 1 + (seed % 12) }, () => {
      state = (state * 48_271) % 2_147_483_647;
      return alphabet[state % alphabet.length];
    }).join('');
    const page = opened({ 'short "<b>"': text, long: text });
    expect([...page.querySelectorAll('script')].map((script) => script.getAttribute('src'))).toEqual([
      '/form.js',
    ]);
    for (const input of page.querySelectorAll<HTMLInputElement>('input[id], textarea[id]'))
      if (input.type !== 'checkbox') expect(input.value).toBe(text);
  }
});

test('labels, names and choices are text, each input has its label, and the chosen ones are checked', () => {
  const page = opened({ care: ['"><script>'] });
  expect(page.querySelector('h1')?.textContent).toBe('<h2>');
  const [short] = page.querySelectorAll<HTMLInputElement>('input[name^=short]');
  expect(short?.name).toBe('short "<b>"');
  expect(short?.labels?.[0]?.textContent).toBe('<i>Short</i> & "sweet" (optional)');
  const boxes = [...page.querySelectorAll<HTMLInputElement>('input[type=checkbox]')];
  expect(
    boxes.map(({ value, checked, labels }) => [value, checked, labels?.[0]?.textContent.trim()]),
  ).toEqual([
    ['"><script>', true, '</label><b>'],
    ["it's", false, 'It’s & is'],
  ]);
});
