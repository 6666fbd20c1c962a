import type { Application, Document } from '../kit/definition';
import { Random } from '../seed/random';
import { jobTags, yardPlannerRecords } from './definition';
import { yardPlannerDialect } from './dialect';

const owners = ['Ailsa Garrick', 'Bram Holmsen', 'Catrin Isbister'];
const works = ['Hull scrape', 'Engine overhaul', 'Ramp repair', 'Winter survey', 'Deck paint'];

/** Where Skerry Line plans what is done to its vessels ashore. */
export const yardPlanner: Application = {
  dialect: yardPlannerDialect,
  records: yardPlannerRecords,
  seed() {
    const random = new Random(47);
    const codes = ['SKDA', 'SKDU', 'GUMA', 'HOTR', 'EIDR', 'LOST', 'MUPA', 'WEST'];
    const jobs = codes.flatMap((code): Document[] =>
      Array.from({ length: 2 }, (_none, number) => ({
        title: `${random.pick(works)} ${code}`,
        vesselCode: code,
        state: number === 0 ? 'done' : 'planned',
        owner: random.pick(owners),
        startsOn: `2026-${String(1 + random.below(12)).padStart(2, '0')}-${String(1 + random.below(28)).padStart(2, '0')}`,
        tags: jobTags.filter(() => random.chance(0.4)),
        customFields: { dock: `D${1 + random.below(3)}`, crewSize: 2 + random.below(7) },
      })),
    );
    const tasks = jobs.flatMap((job, at): Document[] =>
      job['state'] === 'done'
        ? [{ jobId: `job_${at + 1}`, title: 'Wash down', owner: String(job['owner']), done: true }]
        : [],
    );
    return new Map([
      ['job', jobs],
      ['task', tasks],
    ]);
  },
};
