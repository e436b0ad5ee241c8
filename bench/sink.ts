/** A mail server in a process of its own that takes everything and keeps nothing, so that only the sending is measured. */
import type { AddressInfo } from 'node:net';
import { SMTPServer } from 'smtp-server';

let taken = 0;
const server = new SMTPServer({
  authOptional: true,
  disabledCommands: ['STARTTLS', 'AUTH'],
  logger: false,
  onData(stream, _session, done) {
    stream.resume();
    stream.on('end', () => {
      taken++;
      done(null, '2.0.0 taken');
    });
  },
});
server.on('error', () => undefined);
server.listen(0, '127.0.0.1', () => process.send!((server.server.address() as AddressInfo).port));
/** How many it has taken, for anyone who waits for the last. */
setInterval(() => process.send?.(taken), 50);
process.once('disconnect', () => process.exit());
