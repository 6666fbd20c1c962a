import { TextInput } from '@mantine/core';
import type { DatabaseConnection } from '@vast-knot/core';
import { Phrase } from '../../parts/Phrase';
import { Clause } from '../Clause';
import { LimitsPhrase } from '../clauses/LimitsPhrase';
import { Secret } from '../clauses/Secret';
import { Choice, Text } from '../Inputs';
import type { SheetParts } from '../sheetParts';
import { withConnection } from '../styleEdits';
import { protectionWords } from './protectionWords';

/** Where the database is, as whom one signs in, how the line is protected, and in which zone its times are. */
export function Line(parts: SheetParts<DatabaseConnection>) {
  const { draft, found, view, again } = parts;
  const { connection } = draft.body;
  const set = (change: Partial<DatabaseConnection>, part: string) =>
    draft.edit((body) => withConnection(body, change), part);
  return (
    <>
      <Clause word="At" findings={[...found('connection/baseUrl'), ...found('connection/protection')]}>
        <TextInput
          aria-label="Address of the database"
          placeholder="postgres://db.example:5432/berths"
          value={connection.baseUrl}
          onChange={(event) => set({ baseUrl: event.currentTarget.value.trim() }, 'baseUrl')}
          classNames={{ input: 'mono' }}
        />
        <span className="small">
          The line to it is{' '}
          <Phrase
            right="systems.change"
            label="How the line is protected"
            says={protectionWords.find(({ value }) => value === connection.protection)?.says}
          >
            <Choice
              label="The line is"
              value={connection.protection}
              options={protectionWords}
              onChange={(protection) => set({ protection }, 'protection')}
            />
          </Phrase>
          . <LimitsPhrase {...parts} of="statements" usual={4} />
        </span>
      </Clause>
      <Clause word="Signed in" findings={found('connection/user')}>
        as{' '}
        <Phrase
          right="systems.change"
          label="As whom one signs in"
          says={<span className="mono">{connection.user === '' ? 'nobody yet' : connection.user}</span>}
        >
          <Text
            label="User"
            mono
            value={connection.user}
            onChange={(user) => set({ user }, 'user')}
            description="What this user may not do is not offered. One who may only read makes a system that is only read."
          />
        </Phrase>
        .
        <Secret view={view} called="password" again={again} />
      </Clause>
      <Clause word="Its times" findings={found('connection/zone')}>
        that name no zone are of{' '}
        <Phrase
          right="systems.change"
          label="Zone of times that name none"
          says={connection.zone === 'UTC' ? 'UTC' : connection.zone}
        >
          <Text
            label="Zone"
            mono
            value={connection.zone}
            onChange={(zone) => set({ zone }, 'zone')}
            description="By its name in the IANA database, such as Europe/Vienna."
          />
        </Phrase>
        .
      </Clause>
    </>
  );
}
