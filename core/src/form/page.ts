import { htmlText } from '../formats/htmlText';
import { isBlankJson } from '../model/equal';
import type { Json, JsonObject } from '../model/json';
import { scalarText } from '../model/jsonText';
import { nfc } from '../model/nfc';
import type { Field } from '../model/system';
import type { Answered, AnswerProblem } from './answer';
import type { CompiledForm, ReadyItem } from './compileForm';
import type { Form, FormNote, FormQuestion } from './form';
import { pageStyle } from './pageStyle';

/** The names of what a page sends beside the answers. No field has such a name: they begin with a dot. */
export const pageNames = {
  /** When the page was made, sealed. */
  pass: '.pass',
  /** The places of the questions that were shown. */
  asked: '.asked',
  /** Nobody sees it; programs that fill in everything do. */
  bait: '.website',
} as const;

/** The page of a form, as it is answered so far. */
export interface FormPage {
  readonly compiled: CompiledForm;
  /** The answers as they were sent; empty at first. */
  readonly given: JsonObject;
  /** What they come to. */
  readonly answered: Answered;
  /** What is said of them; empty before anything was sent. */
  readonly problems: readonly AnswerProblem[];
  /** Sent with the answers, to tell one page from another. */
  readonly pass: string;
  /** It is only tried: it has no script. */
  readonly isTrial?: boolean;
}

/** Up to so many choices stand below one another; more are in a list that opens. */
const mostRadios = 8;
/** A text that may be longer has several lines. */
const oneLine = 200;

/** Returns the page on which people answer a form. It works without a script, and needs nothing from elsewhere. */
export function formPage({ compiled, given, answered, problems, pass, isTrial = false }: FormPage): string {
  const { form, items } = compiled;
  const of = new Map(
    problems.flatMap((each) => (each.field === undefined ? [] : [[each.field, each.because]])),
  );
  const body = items
    .map((ready) =>
      itemHtml(ready, { given, shown: answered.shown.includes(ready.at), wrong: of, zone: form.zone }),
    )
    .join('\n');
  return page(
    problems.length > 0 ? `Not sent yet: ${form.title}` : form.title,
    `<h1>${htmlText(form.title)}</h1>
${paragraphs(form.intro)}
${problems.length > 0 ? summary(problems, items) : ''}
<form method="post" novalidate>
<input type="hidden" name="${pageNames.pass}" value="${htmlText(pass)}">
<input type="hidden" name="${pageNames.asked}" value="${answered.shown.join(',')}">
<p class="bait" aria-hidden="true"><label>Leave this empty <input name="${pageNames.bait}" tabindex="-1" autocomplete="off"></label></p>
${body}
<p><button type="submit">Send</button></p>
</form>`,
    isTrial ? '' : '<script src="/form.js" defer></script>',
  );
}

/** Returns what whoever has answered sees. */
export function thanksPage({ title, thanks }: Form): string {
  return page(
    `Sent: ${title}`,
    `<h1>${htmlText(title)}</h1>
<div role="status">${paragraphs(thanks.trim() === '' ? 'Your answer has come. Thank you.' : thanks)}</div>
<p><a href="">Answer once more</a></p>`,
  );
}

/** Returns a page that says one thing: that a form takes no answers, or that too many came. */
export function sayingPage(title: string, says: string): string {
  return page(title, `<h1>${htmlText(title)}</h1>\n${paragraphs(says)}`);
}

function page(title: string, main: string, more = ''): string {
  return `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<meta name="robots" content="noindex">
<title>${htmlText(title)}</title>
<style>${pageStyle}</style>
${more}
</head>
<body>
<main>
${main}
</main>
</body>
</html>
`;
}

const paragraphs = (text: string) =>
  text
    .split(/\n{2,}/)
    .filter((each) => each.trim() !== '')
    .map((each) => `<p>${htmlText(each.trim()).replaceAll('\n', '<br>')}</p>`)
    .join('\n');

function summary(problems: readonly AnswerProblem[], items: readonly ReadyItem[]): string {
  const at = (path: string | undefined) =>
    items.find(({ item }) => item.kind === 'question' && item.field === path)?.at;
  const lines = problems.map(({ field, because }) => {
    const place = at(field);
    return `<li>${place === undefined ? htmlText(because) : `<a href="#a${place}">${htmlText(because)}</a>`}</li>`;
  });
  return `<div class="summary" role="alert" tabindex="-1"><h2>This is not sent yet</h2><ul>${lines.join('')}</ul></div>`;
}

interface Around {
  readonly given: JsonObject;
  readonly shown: boolean;
  readonly wrong: ReadonlyMap<string, string>;
  readonly zone: string;
}

function itemHtml(ready: ReadyItem, around: Around): string {
  const { at } = ready;
  const hidden = around.shown ? '' : ' hidden';
  if (ready.field === undefined) return noteHtml(ready.item, at, hidden);
  const { item, field } = ready;
  const wrong = around.wrong.get(item.field);
  const hints = [item.hint, limits(field, item, around.zone)].filter((each) => each.trim() !== '');
  const described = [...(hints.length > 0 ? [`h${at}`] : []), ...(wrong === undefined ? [] : [`w${at}`])];
  const says = `${hints.length > 0 ? `<p class="hint" id="h${at}">${hints.map(htmlText).join('<br>')}</p>` : ''}${
    wrong === undefined ? '' : `<p class="wrong" id="w${at}">${htmlText(wrong)}</p>`
  }`;
  const name = `${htmlText(field.label)}${isOptional(field, item) ? ' <span class="optional">(optional)</span>' : ''}`;
  const attributes = `${described.length > 0 ? ` aria-describedby="${described.join(' ')}"` : ''}${wrong === undefined ? '' : ' aria-invalid="true"'}`;
  const parts: Parts = { at, item, field, given: around.given, attributes };
  const one = single(parts);
  return one === undefined
    ? `<fieldset class="item" data-at="${at}"${hidden}${attributes}><legend>${name}</legend>${says}${several(parts)}</fieldset>`
    : `<div class="item" data-at="${at}"${hidden}><label for="a${at}">${name}</label>${says}${one}</div>`;
}

function noteHtml({ text, stops }: FormNote, at: number, hidden: string): string {
  return `<div class="item note${stops ? ' stops' : ''}" role="status" data-at="${at}"${hidden}>${paragraphs(text)}</div>`;
}

const isOptional = ({ required }: Field, { few }: FormQuestion) => required !== true && few === undefined;

interface Parts {
  readonly at: number;
  readonly item: FormQuestion;
  readonly field: Field;
  readonly given: JsonObject;
  readonly attributes: string;
}

/** Returns the one input of a question; undefined where it has several. */
function single({ at, item, field, given, attributes }: Parts): string | undefined {
  const { type, options = [], maxLength = Infinity } = field;
  const value = textOf(given[item.field]);
  const start = `id="a${at}" name="${htmlText(item.field)}"${attributes}`;
  switch (type) {
    case 'multichoice':
    case 'boolean':
      return undefined;
    case 'choice':
      return options.length > mostRadios
        ? `<select ${start}><option value=""></option>${options
            .map(
              (option) =>
                `<option value="${htmlText(option.value)}"${is(option, value) ? ' selected' : ''}>${htmlText(option.label)}</option>`,
            )
            .join('')}</select>`
        : undefined;
    case 'integer':
    case 'decimal':
      return `<input ${start} class="short" inputmode="${type === 'integer' ? 'numeric' : 'decimal'}" autocomplete="off" value="${htmlText(value)}">`;
    case 'date':
      return `<input ${start} class="short" type="date" value="${htmlText(value)}">`;
    case 'datetime':
      return `<input ${start} class="short" type="datetime-local" value="${htmlText(value)}">`;
    default:
      return maxLength > oneLine
        ? `<textarea ${start} rows="4">${htmlText(value)}</textarea>`
        : `<input ${start} value="${htmlText(value)}">`;
  }
}

/** Returns the boxes or buttons of a question of which one or several are pressed. */
function several({ at, item, field, given }: Parts): string {
  const raw = given[item.field];
  const chosen = (Array.isArray(raw) ? raw : [raw]).map(textOf);
  const isOne = field.type !== 'multichoice';
  const options =
    field.type === 'boolean'
      ? [
          { value: 'yes', label: 'Yes' },
          { value: 'no', label: 'No' },
        ]
      : (field.options ?? []);
  return options
    .map(
      (option, n) =>
        `<label class="choice"><input${n === 0 ? ` id="a${at}"` : ''} type="${isOne ? 'radio' : 'checkbox'}" name="${htmlText(item.field)}" value="${htmlText(option.value)}"${
          chosen.some((each) => is(option, each)) ? ' checked' : ''
        }> ${htmlText(option.label)}</label>`,
    )
    .join('');
}

const is = ({ value, label }: { readonly value: string; readonly label: string }, given: string) =>
  given !== '' && (value === nfc(given).trim() || label === nfc(given).trim());

const textOf = (json: Json | undefined): string =>
  json === undefined || isBlankJson(json) || typeof json === 'object' ? '' : scalarText(json);

/** Returns the limits of a field in words; empty where there are none. */
function limits({ type, min, max, maxLength }: Field, { few, most }: FormQuestion, zone: string): string {
  const between = (least: number | undefined, greatest: number | undefined, unit: string) =>
    least !== undefined && greatest !== undefined
      ? `From ${said(least)} to ${said(greatest)}${unit}.`
      : least !== undefined
        ? `At least ${said(least)}${unit}.`
        : greatest === undefined
          ? ''
          : `At most ${said(greatest)}${unit}.`;
  switch (type) {
    case 'integer':
    case 'decimal':
      return between(min, max, '');
    case 'multichoice':
      return few === undefined && most === undefined
        ? 'Choose all that fit.'
        : between(few, most, ' choices');
    case 'datetime':
      return `The time is that of ${zone.replaceAll('_', ' ')}.`;
    case 'text':
      return maxLength === undefined || maxLength > 10_000 ? '' : `At most ${said(maxLength)} characters.`;
    default:
      return '';
  }
}

const said = (number: number) => {
  const [whole = '', fraction] = String(number).split('.');
  return whole.replace(/\B(?=(\d{3})+(?!\d))/g, ',') + (fraction === undefined ? '' : `.${fraction}`);
};
