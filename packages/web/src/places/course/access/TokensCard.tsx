/** Tokens with which programs come in: made, shown once, ended. */
import { useState, type FormEvent } from 'react';
import { useQuery } from '@tanstack/react-query';
import { TOKEN_CAPABILITIES, type Capability } from '@zest-bell/core/access';
import { contract } from '@zest-bell/core/contract';
import { ask, ApiProblem, errorWords } from '../../../lib/api.ts';
import { attempt } from '../../../lib/attempt.ts';
import type { CourseHere } from '../../../lib/here.ts';
import { CAPABILITY_WORDS } from '../../../lib/mayWords.ts';
import { refreshAll } from '../../../lib/queries.ts';
import { Button } from '../../../ui/Button.tsx';
import { Labelled } from '../../../ui/fields.tsx';
import { PlainTable } from '../../../ui/PlainTable.tsx';
import { SecretField } from '../../../ui/SecretField.tsx';
import { When } from '../../../ui/When.tsx';

const STATES = { works: 'works', ended: 'has ended', revoked: 'was revoked' } as const;

export function TokensCard({ here }: { readonly here: CourseHere }) {
  const tokens = useQuery({
    queryKey: ['tokens', here.id],
    queryFn: () => ask(contract.people.tokens, { course: here.id }),
  });
  const [secret, setSecret] = useState<{ readonly name: string; readonly secret: string } | null>(null);
  const zone = here.course.timeZone;
  const end = async (token: number) => {
    await attempt(() => ask(contract.people.revokeToken, { course: here.id, token }));
    await refreshAll();
  };
  return (
    <section aria-label="Tokens" className="mt-4 rounded-[16px] border border-line bg-sheet px-5 py-4">
      <h2 className="text-[18px] font-bold">Tokens for programs</h2>
      <p className="text-[14px] text-ink-2">
        A program signs in with a token and may do what you allow it to do in this course.{' '}
        <a
          className="font-semibold text-pine underline underline-offset-4"
          href="/api/docs"
          target="_blank"
          rel="noreferrer"
        >
          What programs can ask for
        </a>
      </p>
      <NewToken here={here} onMade={setSecret} />
      {secret && (
        <SecretField
          label={`The token “${secret.name}”. Copy it now; it is not shown again.`}
          value={secret.secret}
          named="token"
        />
      )}
      {tokens.data && tokens.data.length > 0 && (
        <PlainTable
          label="Tokens"
          columns={[{ name: 'Token' }, { name: 'May' }, { name: 'Made' }, { name: 'Last used' }, { name: 'State' }]}
          rows={tokens.data.map((t) => ({
            key: String(t.id),
            head: t.name,
            cells: [
              <span key="may" className="block max-w-72">
                {t.capabilities.map((c) => CAPABILITY_WORDS[c]).join('; ')}
              </span>,
              <span key="made">
                {t.by} <When at={t.at} zone={zone} />
              </span>,
              t.usedAt === null ? 'never' : <When key="used" at={t.usedAt} zone={zone} />,
              t.state === 'works' ? (
                <Button key="end" look="quiet" onClick={() => end(t.id)} aria-label={`Revoke the token ${t.name}`}>
                  Revoke
                </Button>
              ) : (
                STATES[t.state]
              ),
            ],
          }))}
        />
      )}
    </section>
  );
}

function NewToken(props: {
  readonly here: CourseHere;
  readonly onMade: (made: { readonly name: string; readonly secret: string }) => void;
}) {
  const [name, setName] = useState('');
  const [endsOn, setEndsOn] = useState('');
  const [chosen, setChosen] = useState<readonly Capability[]>(['course.read']);
  const [refused, setRefused] = useState<unknown>(null);
  const [busy, setBusy] = useState(false);
  const problems = refused instanceof ApiProblem ? refused.problems : [];
  const problemOf = (path: string) => problems.find((p) => p.path === path)?.message;
  const make = async (event: FormEvent) => {
    event.preventDefault();
    setBusy(true);
    setRefused(null);
    try {
      const body = { name, capabilities: [...chosen], endsOn: endsOn === '' ? null : endsOn };
      const made = await ask(contract.people.makeToken, { course: props.here.id }, { body });
      props.onMade({ name, secret: made.secret });
      setName('');
      await refreshAll();
    } catch (error) {
      setRefused(error);
    } finally {
      setBusy(false);
    }
  };
  return (
    <form className="mt-3 grid gap-3" noValidate onSubmit={(e) => void make(e)}>
      <div className="flex flex-wrap gap-3">
        <Labelled label="Name of the program" problem={problemOf('name')}>
          {(id) => (
            <input
              id={id}
              className="field w-64"
              autoComplete="off"
              value={name}
              onChange={(e) => setName(e.target.value)}
            />
          )}
        </Labelled>
        <Labelled label="Last day, if it should end" problem={problemOf('endsOn')}>
          {(id) => (
            <input id={id} type="date" className="field" value={endsOn} onChange={(e) => setEndsOn(e.target.value)} />
          )}
        </Labelled>
      </div>
      <fieldset>
        <legend className="text-[13px] font-semibold text-ink-2">What it may do</legend>
        <div className="grid gap-x-4 min-[700px]:grid-cols-2">
          {TOKEN_CAPABILITIES.map((c) => (
            <label key={c} className="flex items-center gap-2 py-0.5 text-[14.5px]">
              <input
                type="checkbox"
                className="size-4"
                checked={chosen.includes(c)}
                onChange={(e) => setChosen(e.target.checked ? [...chosen, c] : chosen.filter((x) => x !== c))}
              />
              {CAPABILITY_WORDS[c]}
            </label>
          ))}
        </div>
        {problemOf('capabilities') && <p className="text-[13px] text-tangerine-text">▲ {problemOf('capabilities')}</p>}
      </fieldset>
      {refused !== null && problems.length === 0 && <p role="alert">▲ {errorWords(refused)}</p>}
      <p>
        <Button type="submit" busy={busy}>
          Make a token
        </Button>
      </p>
    </form>
  );
}
