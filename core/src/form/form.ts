import Joi from 'joi';
import { fieldName, formulaText } from '../model/names';
import type { FieldType } from '../model/system';

/** Asks for the value of a field. What is asked, of what type, with which choices and limits, is said by the field. */
export interface FormQuestion {
  readonly kind: 'question';
  /** The dotted path of the field. */
  readonly field: string;
  /** What helps whoever answers; may be empty. */
  readonly hint: string;
  /** The condition under which it is asked, a formula over the answers before it; empty: always. */
  readonly shown: string;
  /** Of several choices: so many are chosen at least, and at most. */
  readonly few?: number;
  readonly most?: number;
}

/** Says something where a condition holds: what follows from an answer, or that it goes beyond what is taken. */
export interface FormNote {
  readonly kind: 'note';
  readonly text: string;
  /** As that of a question. */
  readonly shown: string;
  /** While it is shown, nothing can be sent. */
  readonly stops: boolean;
}

export type FormItem = FormQuestion | FormNote;

/** A page on which people outside give the fields of a record. */
export interface Form {
  /** The last part of the address of its page. */
  readonly address: string;
  readonly title: string;
  /** Stands above the questions; may be empty. */
  readonly intro: string;
  /** What is said to whoever has answered. */
  readonly thanks: string;
  /** Whether answers are taken. */
  readonly open: boolean;
  /** Times are answered in this zone, by its IANA name. */
  readonly zone: string;
  /** In the order in which they stand on the page. */
  readonly items: readonly FormItem[];
}

/** The types of fields that a form can ask for. */
export const askable: readonly FieldType[] = [
  'text',
  'integer',
  'decimal',
  'boolean',
  'date',
  'datetime',
  'choice',
  'multichoice',
];

/** Most questions and notes of a form. */
const mostItems = 200;

const shown = formulaText.required();

const itemSchema = Joi.alternatives<FormItem>().conditional('.kind', {
  switch: [
    {
      is: 'question',
      then: Joi.object<FormQuestion>({
        kind: Joi.valid('question').required(),
        field: fieldName.required(),
        hint: Joi.string().max(1000).allow('').required(),
        shown,
        few: Joi.number().integer().min(1).max(1000),
        most: Joi.number().integer().min(1).max(1000),
      }),
    },
    {
      is: 'note',
      then: Joi.object<FormNote>({
        kind: Joi.valid('note').required(),
        text: Joi.string().max(2000).allow('').required(),
        shown,
        stops: Joi.boolean().required(),
      }),
    },
  ],
  otherwise: Joi.object({ kind: Joi.valid('question', 'note').required() }),
});

export const formSchema: Joi.ObjectSchema<Form> = Joi.object<Form>({
  address: Joi.string()
    .pattern(/^[a-z0-9]+(-[a-z0-9]+)*$/, 'small letters, digits and hyphens')
    .max(60)
    .required(),
  title: Joi.string().max(120).required(),
  intro: Joi.string().max(4000).allow('').required(),
  thanks: Joi.string().max(2000).allow('').required(),
  open: Joi.boolean().required(),
  zone: Joi.string().max(60).required(),
  items: Joi.array().items(itemSchema).max(mostItems).required(),
});
