/** A mail server that takes everything, for what runs without the demo. */
import type { AddressInfo } from 'node:net';
import { SMTPServer } from 'smtp-server';

export interface LetterBox {
  readonly url: string;
  /** One for each recipient, in the order of arrival. */
  readonly letters: readonly { readonly to: string; readonly text: string }[];
  close(): Promise<void>;
}

export async function openLetterBox(): Promise<LetterBox> {
  const letters: { to: string; text: string }[] = [];
  const smtp = new SMTPServer({
    authOptional: true,
    disabledCommands: ['STARTTLS', 'AUTH'],
    onData(stream, session, done) {
      let text = '';
      stream.on('data', (chunk: Buffer) => (text += chunk.toString('utf8')));
      stream.on('end', () => {
        for (const { address } of session.envelope.rcptTo) letters.push({ to: address, text });
        done();
      });
    },
  });
  await new Promise<void>((ready) => smtp.listen(0, '127.0.0.1', () => ready()));
  const { port } = smtp.server.address() as AddressInfo;
  return {
    url: `smtp://127.0.0.1:${port}`,
    letters,
    close: () => new Promise<void>((closed) => smtp.close(() => closed())),
  };
}
