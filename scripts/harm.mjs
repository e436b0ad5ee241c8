// What the scripts that do harm share: a mail server that counts what it takes, and what became of each message.
import { SMTPServer } from 'smtp-server';
import { grouped } from '../packages/core/dist/course/grouped.js';

/** A mail server that takes a few milliseconds for each message and counts how often each came, by its Message-ID. */
export async function openSink() {
  const arrived = new Map();
  const smtp = new SMTPServer({
    authOptional: true,
    disabledCommands: ['STARTTLS', 'AUTH'],
    onData(stream, _session, done) {
      let head = '';
      stream.on('data', (part) => (head += head.length < 8000 ? part.toString('latin1') : ''));
      stream.on('end', () => {
        const id = /^message-id:\s*(<[^>]+>)/im.exec(head)?.[1];
        arrived.set(id, (arrived.get(id) ?? 0) + 1);
        setTimeout(() => done(null, '2.0.0 taken'), Math.random() * 5);
      });
    },
  });
  smtp.on('error', () => undefined);
  await new Promise((ready) => smtp.listen(0, '127.0.0.1', ready));
  return {
    arrived,
    url: `smtp://127.0.0.1:${smtp.server.address().port}`,
    close: () => new Promise((closed) => smtp.close(closed)),
  };
}

/** What the log says of each message, beside what arrived. `run` asks the database. */
export async function mailCame(run, arrived) {
  const messages = await run('select id, state from message');
  const attempts = grouped(await run('select message, message_id as name from attempt'), (a) => String(a.message));
  const times = (m) => (attempts.get(String(m.id)) ?? []).reduce((n, a) => n + (arrived.get(a.name) ?? 0), 0);
  const of = (...states) => messages.filter((m) => states.includes(m.state));
  // What arrived and is in no log is a message that left and was forgotten.
  const named = new Set([...attempts.values()].flat().map((a) => a.name));
  return {
    messages: messages.length,
    lost: of('sent').filter((m) => times(m) === 0).length,
    doubled: messages.filter((m) => times(m) > 1).length,
    waiting: of('queued', 'handing').length,
    unclear: of('uncertain').length,
    unclearCame: of('uncertain').filter((m) => times(m) > 0).length,
    unnamed: [...arrived.keys()].filter((name) => !named.has(name)).length,
  };
}
