import { Button, TextInput } from '@mantine/core';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, NavLink, useNavigate, useParams } from 'react-router';
import type { EndpointView } from '@vast-knot/core';
import { ask, sentenceOf } from '../api/client';
import { keys, useEndpoints } from '../api/queries';
import { useMay } from '../frame/useMay';
import { keyFor } from '../parts/keyFor';
import { Empty, Failure, Loading } from '../parts/states';
import { AddressSheet } from './AddressSheet';
import { SecretOnce } from './SecretOnce';
import '../parts/lines.css';
import './addresses.css';

/** The outside addresses that messages can be sent to, and the one at hand. */
export function AddressesPage() {
  const { address: key } = useParams();
  const endpoints = useEndpoints();
  const mayChange = useMay('endpoints.change');
  if (endpoints.isPending) return <Loading />;
  if (endpoints.isError) return <Failure error={endpoints.error} again={() => void endpoints.refetch()} />;
  const endpoint = endpoints.data.find((each) => each.key === key) ?? endpoints.data[0];
  return (
    <div className="split systems-beside">
      <nav aria-label="Outside addresses" className="side-list">
        {endpoints.data.map((each) => (
          <NavLink
            key={each.key}
            to={`/addresses/${each.key}`}
            className={`row side-entry ${each === endpoint ? 'active' : ''}`}
          >
            <span>{each.name}</span>
            <span className="small dim mono cut">{each.url}</span>
          </NavLink>
        ))}
        <Link to="/messages" className="row side-entry">
          All messages …
        </Link>
        <Link to="/telling" className="row side-entry">
          Who is told …
        </Link>
      </nav>
      <div className="page">
        <div className="page-head">
          <h1>Outside addresses</h1>
          <span className="dim">Where rules send messages to.</span>
        </div>
        {mayChange && <NewAddress known={endpoints.data} />}
        {endpoint ? (
          <AddressSheet key={endpoint.key} endpoint={endpoint} />
        ) : (
          <Empty title="There is no address yet">Add the first one: its name, and where it is.</Empty>
        )}
      </div>
    </div>
  );
}

function NewAddress({ known }: { readonly known: readonly EndpointView[] }) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const [name, setName] = useState('');
  const [url, setUrl] = useState('');
  const add = useMutation({
    mutationFn: () =>
      ask<EndpointView & { secret?: string }>(`/endpoints/${keyFor(name, 'address', known)}`, {
        method: 'PUT',
        body: { name: name.trim(), url: url.trim() },
      }),
    onSuccess: async ({ key }) => {
      setName('');
      setUrl('');
      await client.invalidateQueries({ queryKey: keys.endpoints });
      await navigate(`/addresses/${key}`);
    },
  });
  return (
    <section aria-label="A new address" className="new-address">
      <form
        className="field-tools"
        onSubmit={(event) => {
          event.preventDefault();
          if (name.trim() !== '' && url.trim() !== '') add.mutate();
        }}
      >
        <TextInput
          label="A new one, called"
          placeholder="Harbour office"
          maxLength={80}
          value={name}
          onChange={(event) => setName(event.currentTarget.value)}
        />
        <TextInput
          label="at"
          placeholder="https://office.example/messages"
          value={url}
          onChange={(event) => setUrl(event.currentTarget.value)}
          classNames={{ input: 'mono' }}
          w={380}
        />
        <Button type="submit" disabled={name.trim() === '' || url.trim() === ''} loading={add.isPending}>
          Add it
        </Button>
      </form>
      {add.isError && (
        <div className="note wrong" role="alert">
          {sentenceOf(add.error)}
        </div>
      )}
      {add.data?.secret !== undefined && <SecretOnce name={add.data.name} secret={add.data.secret} />}
    </section>
  );
}
