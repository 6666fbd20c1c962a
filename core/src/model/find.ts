import Joi from 'joi';
import { alias, fieldName, formulaText } from './names';

/** How a field of the record looked for is held against the value of a formula; `in` takes a list. */
export const comparisons = ['equal', 'in', 'at least', 'at most', 'begins with'] as const;
export type Comparison = (typeof comparisons)[number];

/** One condition on a field of the record looked for. */
export interface MatchCondition {
  readonly field: string;
  /** What is compared instead of the field as it stands: a formula in which `item` is the value of the field. */
  readonly as?: string;
  readonly is: Comparison;
  readonly formula: string;
}

/** Fetch of records by match conditions, under an alias that later formulas use. */
export interface Find {
  readonly alias: string;
  readonly system: string;
  readonly recordType: string;
  readonly match: readonly MatchCondition[];
  /** A guard of its own: which of the records found count. Reads them under the alias. */
  readonly where?: string;
  /**
   * `stop` ends the rule quietly, `fail` marks the run, `go on` leaves the alias blank, `create` lets the write to the
   * alias create the record.
   */
  readonly none: 'stop' | 'fail' | 'go on' | 'create';
  /** `each` makes the actions run for every record found, `first` takes the first by the order. */
  readonly several: 'fail' | 'each' | 'first';
  readonly order?: FindOrder;
  /** Looks among the remembered pairs first, and remembers what it matched or created as the counterpart of the record. */
  readonly counterpart?: boolean;
}

/** The order by which the first of several records is chosen; blank comes last, equal ones by id. */
interface FindOrder {
  readonly field: string;
  readonly descending: boolean;
}

export const findSchema = Joi.object<Find>({
  alias: alias.required(),
  system: fieldName.required(),
  recordType: fieldName.required(),
  match: Joi.array()
    .items(
      Joi.object<MatchCondition>({
        field: fieldName.required(),
        as: formulaText,
        is: Joi.valid(...comparisons).required(),
        formula: formulaText.required(),
      }),
    )
    .min(1)
    .max(20)
    .required(),
  where: formulaText,
  none: Joi.valid('stop', 'fail', 'go on', 'create').required(),
  several: Joi.valid('fail', 'each', 'first').required(),
  order: Joi.object<FindOrder>({ field: fieldName.required(), descending: Joi.boolean().required() }),
  counterpart: Joi.boolean(),
});
