import type { RecordDefinition } from '../kit/definition';

const jobStates = ['planned', 'in yard', 'done'] as const;
export const jobTags = ['hull', 'engine', 'paint', 'electrics', 'survey'] as const;

export const yardPlannerRecords: readonly RecordDefinition[] = [
  {
    type: 'job',
    path: 'jobs',
    title: 'Job',
    idPrefix: 'job_',
    firstId: 1,
    nameField: 'title',
    indexed: ['vesselCode'],
    schema: {
      type: 'object',
      additionalProperties: false,
      required: ['title', 'state'],
      properties: {
        title: { type: 'string', title: 'Title', minLength: 1, maxLength: 60 },
        vesselCode: { type: 'string', title: 'Vessel code', maxLength: 4 },
        state: { type: 'string', title: 'State', enum: jobStates },
        owner: { type: 'string', title: 'Owner', maxLength: 60 },
        startsOn: { type: 'string', format: 'date', title: 'Starts on' },
        tags: { type: 'array', title: 'Tags', items: { type: 'string', enum: jobTags } },
        firstTaskId: { type: 'string', title: 'First task' },
        customFields: {
          type: 'object',
          title: 'Custom fields',
          additionalProperties: false,
          properties: {
            dock: { type: 'string', title: 'Dock', maxLength: 10 },
            crewSize: { type: 'integer', title: 'Crew size', minimum: 0, maximum: 99 },
            insurance: { type: 'string', title: 'Insurance', maxLength: 40 },
          },
        },
      },
    },
  },
  {
    type: 'task',
    path: 'tasks',
    title: 'Task',
    idPrefix: 'task_',
    firstId: 1,
    nameField: 'title',
    indexed: ['jobId'],
    schema: {
      type: 'object',
      additionalProperties: false,
      required: ['title', 'jobId'],
      properties: {
        jobId: { type: 'string', title: 'Job' },
        title: { type: 'string', title: 'Title', minLength: 1, maxLength: 60 },
        owner: { type: 'string', title: 'Owner', maxLength: 60 },
        done: { type: 'boolean', title: 'Done' },
        dueOn: { type: 'string', format: 'date', title: 'Due on' },
      },
    },
  },
];
