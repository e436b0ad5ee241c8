/** Who of several processes takes replies. */
import { connect, createServer, type AddressInfo, type Server } from 'node:net';
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { openStage, type TestStage } from '../../testing/stage.ts';
import { until } from '../../testing/until.ts';
import type { Receiver, ReceiverOptions } from './receiver.ts';
import { receiveInTurn } from './receivingTurn.ts';

let stage: TestStage;
const lines: object[] = [];
const open: Receiver[] = [];
beforeEach(async () => {
  stage = await openStage({ now: '2026-09-10T12:00' });
  lines.splice(0);
});
afterEach(async () => {
  for (const receiver of open.splice(0)) await receiver.close();
  await stage.close();
});

async function receive(port: number): Promise<Receiver> {
  const told = (line: object) => void lines.push(line);
  const logger = Object.assign(Object.create(stage.services.logger) as typeof stage.services.logger, {
    info: told,
    warn: told,
  });
  const options: ReceiverOptions = {
    port,
    host: '127.0.0.1',
    domain: 'bell.example',
    secret: 'secret',
    onArrival: () => undefined,
  };
  const receiver = await receiveInTurn({ ...stage.services, logger }, options, 10);
  open.push(receiver);
  return receiver;
}

/** Whether something greets there as a mail server (RFC 5321 §3.1). */
const greets = (port: number) =>
  new Promise<boolean>((resolve) => {
    const socket = connect(port, '127.0.0.1');
    socket.once('error', () => resolve(false));
    socket.once('data', (data) => {
      socket.destroy();
      resolve(data.toString().startsWith('220 '));
    });
  });

test('a second process starts beside the first, says so once, and takes the port over when that goes', async () => {
  const first = await receive(0);
  const second = await receive(first.port);
  expect(second.port).toBe(first.port);
  expect(lines).toEqual([{ event: 'repliesElsewhere', port: first.port }]);
  await first.close();
  open.splice(0, 1);
  await until(() => greets(second.port));
  expect(lines).toHaveLength(1);
});

test('a port that another program has is told as that', async () => {
  const other: Server = createServer((socket) => socket.end('hello\n'));
  await new Promise<void>((ready) => other.listen(0, '127.0.0.1', ready));
  const { port } = other.address() as AddressInfo;
  await receive(port);
  expect(lines).toEqual([{ event: 'replyPortTaken', port }]);
  await new Promise((closed) => other.close(closed));
  await until(() => greets(port));
});
