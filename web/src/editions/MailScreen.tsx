import './editions.css';
import '../parts/list.css';

import { Button } from '@mui/material';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';

import { get, put, type MailView } from '../api/client';
import { Masthead } from '../parts/Masthead';
import { FaultNote } from '../parts/Fault';
import { Choose, Written } from '../parts/Field';
import { count, counted, day } from '../parts/words';
import { SendingLines } from './SendingLines';

/** The mail server's settings; in the demo, the built-in test inbox. */
export function MailScreen() {
  const mail = useQuery({ queryKey: ['mail'], queryFn: () => get('/mail') });
  return (
    <>
      <Masthead title="Mail" />
      <main className="list-page">
        <FaultNote error={mail.error} />
        {mail.data?.stand_in ? <Inbox /> : mail.data && <Server mail={mail.data} />}
        <Went />
      </main>
      <footer className="tie" />
    </>
  );
}

function Server({ mail }: { mail: MailView }) {
  const queries = useQueryClient();
  const [draft, setDraft] = useState(mail);
  const saving = useMutation({
    mutationFn: () => {
      const { host, port, security, user, sender } = draft;
      return put('/mail', { host, port, security, user, sender });
    },
    onSuccess: () => queries.invalidateQueries({ queryKey: ['mail'] }),
  });
  return (
    <>
      <h1 className="page-title">Mail</h1>
      <p className="say">Where editions are handed in to be sent (SMTP)</p>
      <FaultNote error={saving.error} />
      <div className="paper new-link" style={{ maxWidth: 520, padding: 22 }}>
        <Written label="Server" value={draft.host ?? ''} change={(host) => setDraft({ ...draft, host })} />
        <Written
          label="Port"
          type="number"
          value={String(draft.port)}
          change={(port) => setDraft({ ...draft, port: Number(port) || 25 })}
        />
        <Choose
          label="Security"
          value={draft.security ?? 'starttls'}
          options={[
            ['starttls', 'STARTTLS'],
            ['tls', 'TLS'],
            ['none', 'none, for a server on this machine'],
          ]}
          change={(security) =>
            setDraft({ ...draft, security: security as NonNullable<MailView['security']> })
          }
        />
        <Written
          label="User (its password is KALENDOR_MAIL_PASSWORD in the environment)"
          value={draft.user ?? ''}
          clear
          change={(user) => setDraft({ ...draft, user })}
        />
        <Written
          label="Sender's address"
          value={draft.sender ?? ''}
          change={(sender) => setDraft({ ...draft, sender })}
        />
        <Button variant="contained" disabled={saving.isPending} onClick={() => saving.mutate()}>
          Save
        </Button>
        {saving.isSuccess && <span role="status">Saved.</span>}
      </div>
    </>
  );
}

/** The latest deliveries and their outcomes. */
function Went() {
  const found = useQuery({
    queryKey: ['sendings'],
    queryFn: () => get('/sendings'),
    refetchInterval: 5_000,
  });
  if (!found.data?.length) return null;
  return (
    <>
      <h2 className="list-title">What was sent</h2>
      <SendingLines named lines={found.data} />
    </>
  );
}

function Inbox() {
  const found = useQuery({
    queryKey: ['inbox'],
    queryFn: () => get('/inbox'),
    refetchInterval: 3_000,
  });
  const mails = found.data ?? [];
  return (
    <>
      <h1 className="page-title">Inbox of the stand-in</h1>
      <p className="say">
        {counted(mails.length, 'mail')} that this demo sent. Nothing leaves this machine; addresses at
        refused.example are refused, to try that out.
      </p>
      <FaultNote error={found.error} />
      <div className="mails">
        {mails.map((mail) => (
          <article className="paper" key={mail.id}>
            <h2>{mail.subject}</h2>
            <span className="quiet">
              to {mail.to} from {mail.sender} · {day(mail.at)}, {mail.at.slice(11, 16)}
            </span>
            <pre>{mail.text}</pre>
            {mail.files.map((file, i) => (
              <a
                key={file.name}
                className="link"
                href={`/api/inbox/${mail.id}/files/${i}`}
                style={{ marginRight: 14 }}
              >
                {file.name} ({count(Math.ceil(file.size / 1024))} kB)
              </a>
            ))}
          </article>
        ))}
      </div>
    </>
  );
}
