import { Button, PasswordInput, TextInput } from '@mantine/core';
import { useState } from 'react';
import { databaseAddress, type DatabaseConnection, type DraftBeginning } from '@vast-knot/core';
import { Choice } from '../Inputs';
import { protectionWords } from './protectionWords';

interface BeginProps {
  readonly busy: boolean;
  readonly begin: (beginning: DraftBeginning) => void;
}

/** Where a database is, and as whom one signs in: its catalogue is read with that. */
export function BeginDatabase({ busy, begin }: BeginProps) {
  const [address, setAddress] = useState('');
  const [user, setUser] = useState('');
  const [secret, setSecret] = useState('');
  const [protection, setProtection] = useState<DatabaseConnection['protection']>('verified');
  const isAddress = databaseAddress(address.trim()) !== undefined;
  const ready = isAddress && user.trim() !== '';
  return (
    <form
      className="begin-form"
      onSubmit={(event) => {
        event.preventDefault();
        if (ready && !busy)
          begin({ from: 'database', address: address.trim(), user: user.trim(), secret, protection });
      }}
    >
      <TextInput
        label="Address"
        placeholder="postgres://db.example:5432/berths"
        description="Where the server is, and the name of the database. User and password stand below."
        value={address}
        error={
          address.trim() !== '' &&
          !isAddress &&
          'It is to be postgres://host:port/database, and nothing more.'
        }
        onChange={(event) => setAddress(event.currentTarget.value)}
        classNames={{ input: 'mono' }}
      />
      <div className="field-tools">
        <TextInput label="User" value={user} onChange={(event) => setUser(event.currentTarget.value)} />
        <PasswordInput
          label="Password"
          autoComplete="off"
          value={secret}
          onChange={(event) => setSecret(event.currentTarget.value)}
          w={260}
        />
      </div>
      <Choice label="The line is" value={protection} options={protectionWords} onChange={setProtection} />
      <Button type="submit" disabled={!ready} loading={busy}>
        Read its catalogue
      </Button>
    </form>
  );
}
