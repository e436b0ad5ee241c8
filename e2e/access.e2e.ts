/** Several people in one course: invited, seeing what their role shows them, second factors, and a student who is erased. */
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { Secret, TOTP } from 'otpauth';
import { DEMO_PASSWORD, openStage, setSendDelay, signedIn, type BrowserStage } from './harness.ts';
import type { Scene } from './scene.ts';

let stage: BrowserStage;
let owner: Scene;
const scenes: Scene[] = [];
const meet = async (scene: Promise<Scene>) => {
  scenes.push(await scene);
  return scenes.at(-1)!;
};
beforeAll(async () => {
  stage = await openStage();
  owner = await meet(stage.openDemo({ place: '/c/1/course/access' }));
});
afterAll(async () => {
  for (const { complaints } of scenes) expect(complaints).toEqual([]);
  await stage.stop();
});

interface FullName {
  readonly firstName: string;
  readonly lastName: string;
}

const PEOPLE = '[aria-label="People with access"]';

test('an owner invites, the link makes an account, and what was given is taken away again', async () => {
  await owner.see(PEOPLE, /Dr\. Runa Ostrander \(you\).*Dr\. Peju Adeyemi.*Ilya Benedek.*Constance Dean/);
  await owner.type('input[type=email]', 'h.pell@saltmarsh.example');
  await owner.clickText('Send the invitation');
  await owner.see('main', /The invitation to h\.pell@saltmarsh\.example is on its way/);
  // A link that was mailed is shown to nobody; where no mail left, an administrator passes it on.
  expect(await owner.page.$('[role=status] input')).toBeNull();
  const mailServer = (mode: string) =>
    owner.page.evaluate(async (mode) => {
      const headers = { 'content-type': 'application/json' };
      const order = { method: 'POST', headers, body: JSON.stringify({ mode }) };
      const answer = await fetch('/api/v1/mailroom-server', order);
      if (!answer.ok) throw new Error(`The mail server stays as it is: ${answer.status}`);
    }, mode);
  await mailServer('busy');
  await owner.type('input[type=email]', 'd.ferrow@saltmarsh.example');
  await owner.clickText('Send the invitation');
  await owner.see('main', /The mail server did not take the invitation to d\.ferrow@saltmarsh\.example/);
  await mailServer('open');
  // By the demo's clock it ends seven days later, and its mail is in the Mailroom.
  await owner.see('main', /h\.pell@saltmarsh\.example.*Mon Nov 2/);
  const mail = await meet(stage.openDemo({ place: '/mailroom' }));
  await mail.clickText('h.pell@saltmarsh.example', 'body');
  await mail.see('body', /Dr\. Runa Ostrander invites you to NAV 120.*Mon Oct 26, 8:02 AM/);
  const link = await owner.read('[role=status] input', (e) => e.value);
  expect(link).toMatch(/\/invitation#\S{32}$/);

  const guest = await meet(stage.open(new URL(link).pathname + new URL(link).hash, { apart: true }));
  await guest.see('main', /Dr\. Runa Ostrander invites d\.ferrow@saltmarsh\.example to NAV 120.*as co-instructor/);
  await guest.type('input[autocomplete=name]', 'Dora Ferrow');
  await guest.type('input[type=password]', 'password12345');
  await guest.clickText('Create account and join');
  await guest.see('main', /This password is one that many people use/);
  await guest.read('input[type=password]', (e) => e.select());
  await guest.page.keyboard.type('rope ladder tide');
  await guest.clickText('Create account and join');
  await guest.see('main', /[Ww]aiting for you/);
  await guest.go(`${stage.base}/c/1/course/access`);
  await guest.see(PEOPLE, /Dora Ferrow \(you\)/);
  expect(await guest.text('main')).not.toMatch(/Invite somebody|Tokens for programs/);

  // The link works no more.
  const late = await meet(stage.open(new URL(link).pathname + new URL(link).hash, { apart: true }));
  await late.see('main', /This link has been used/);

  await owner.go(`${stage.base}/c/1/course/access`);
  await owner.see(PEOPLE, /Dora Ferrow/);
  await owner.select('aria/Role of Dora Ferrow', 'Assistant');
  await guest.go(`${stage.base}/c/1/rules`);
  await guest.see('main', /Quiet for five days/);
  expect(await guest.page.$('[role=switch]')).toBeNull();
  const row = await owner.page.waitForSelector('::-p-xpath(//tr[contains(., "Dora Ferrow")]//button)');
  await row!.click();
  await owner.clickText('Take access away', '[role=dialog] footer');
  await owner.see('body', /Dora Ferrow no longer has access/);
  await guest.page.goto(`${stage.base}/`);
  await guest.see('body', /No course yet/);

  await owner.go(`${stage.base}/c/1/course/acts`);
  await owner.see('main', /Take somebody’s access away.*Give somebody another role.*Invite somebody/);
});

test('two people edit one student: what both changed is told, and can be put in its place; the rest is merged', async () => {
  const peju = await meet(signedIn(stage, 'p.adeyemi'));
  await peju.see('main', /[Ww]aiting for you|Today/);
  const { people } = await owner.page.evaluate(
    async () =>
      (await (await fetch('/api/v1/courses/1')).json()) as { people: (FullName & { id: string; role: string })[] },
  );
  const { id, ...who } = people.find((p) => p.role === 'student')!;
  await owner.go(`${stage.base}/c/1/course/people`);
  await owner.type('aria/Search people', who.lastName);
  await owner.clickText(`${who.firstName} ${who.lastName}`);
  await owner.clickAt('aria/Section', 3);
  await owner.page.keyboard.type('09');
  const saved = await peju.page.evaluate(async (id) => {
    const body = JSON.stringify({ people: [{ id, set: { section: '07', lastName: 'Meanwhile' } }] });
    const headers = { 'content-type': 'application/json' };
    return (await fetch('/api/v1/courses/1/edit', { method: 'POST', headers, body })).status;
  }, id);
  expect(saved).toBe(200);
  await owner.clickText('Save changes', '[role=dialog]');
  await owner.see('[role=dialog]', /Dr\. Peju Adeyemi changed this to “07” in the meantime\. Save again/);
  // What was not typed here is as the other has saved it.
  expect(await owner.read('aria/Last name', (e) => e.value)).toBe('Meanwhile');
  await owner.clickText('Save changes', '[role=dialog]');
  await owner.gone('[role=dialog]');
  await owner.see('main', new RegExp(`${who.firstName} Meanwhile.*09`));
});

test('an observer reads counts and no name, an assistant drafts and runs nothing', async () => {
  const dean = await meet(signedIn(stage, 'c.dean'));
  const counts = await dean.see('main', /42 students.*Week by week.*Quiet for five days/);
  expect(counts).toMatch(/fewer than 5/);
  const names = await owner.page.evaluate(async () => {
    const answer = await fetch('/api/v1/courses/1');
    return ((await answer.json()) as { people: { lastName: string }[] }).people.map((p) => p.lastName);
  });
  for (const name of names) expect(counts).not.toContain(name);

  const ilya = await meet(signedIn(stage, 'i.benedek'));
  await ilya.see('main', /[Ww]aiting for you/);
  await ilya.go(`${stage.base}/c/1/rules/quiet`);
  await ilya.see('main', /Rehearse/);
  const shown = await ilya.page.$$eval('main button', (all) => all.map((b) => b.innerText));
  expect(shown.filter((words) => /Check now|Pause|Confirm changes|Turn on/.test(words))).toEqual([]);
});

test('a second instructor writes in their own name, and an assistant’s new text waits for somebody who may publish it', async () => {
  const peju = await meet(signedIn(stage, 'p.adeyemi'));
  await peju.see('main', /[Ww]aiting for you/);
  await peju.go(`${stage.base}/c/1/course`);
  await peju.see('[aria-label="Your own sender"]', /Sign with my own name in this course/);
  await setSendDelay(peju, 0);
  await peju.go(`${stage.base}/c/1/write?student=n21`);
  await peju.type('[aria-label=Subject]', 'A chart of yours');
  await peju.clickAt('[aria-label=Text]');
  await peju.page.keyboard.type('I found a chart of yours. ');
  await peju.see('main', /Dr\. Peju Adeyemi.*I found a chart of yours/);
  await peju.clickText('Send 1 message', 'button');
  await peju.see('body', /1 message is on the way/);
  await owner.go(`${stage.base}/c/1/log?find=A chart of yours`);
  await owner.see('main', /Dr\. Peju Adeyemi · p\.adeyemi@saltmarsh\.example/);

  // A reply to the course’s message is answered by the one who comes first; the other one sees that it is settled.
  await peju.go(`${stage.base}/c/1/today`);
  await peju.see('[aria-label="Replies to answer"]', /Answer/);
  const before = await peju.page.$$eval('[data-testid^=reply-]', (all) =>
    all.map((e) => e.getAttribute('data-testid')!),
  );
  await peju.clickAt(`[data-testid="${before[0]!}"] button[aria-label^="Answer "]`);
  await peju.page.waitForSelector('[role=dialog] textarea');
  await peju.page.type('[role=dialog] textarea', 'I answer for both of us.');
  await peju.clickText('Send answer', '[role=dialog]');
  await peju.gone(`[data-testid="${before[0]!}"]`);
  await owner.go(`${stage.base}/c/1/today`);
  await owner.see('main', /[Ww]aiting for you/);
  expect(await owner.page.$(`[data-testid="${before[0]!}"]`)).toBeNull();

  const ilya = await meet(signedIn(stage, 'i.benedek'));
  await ilya.see('main', /[Ww]aiting for you/);
  await ilya.go(`${stage.base}/c/1/wording`);
  await ilya.clickText('Let’s talk', 'main');
  await ilya.see('[role=dialog]', /Changes apply to it/);
  await ilya.clickAt('aria/Name', 3);
  await ilya.page.keyboard.type('Let us talk soon');
  await ilya.clickText('Save as draft', '[role=dialog] button');
  await ilya.see('body', /Saved as a draft of “Let us talk soon”/);
  await owner.go(`${stage.base}/c/1/wording?wording=talk`);
  await owner.see('[role=dialog]', /Ilya Benedek drafted changes to this wording/);
  await owner.clickText('Publish their changes', '[role=dialog]');
  await owner.see('main', /Let us talk soon/);
});

test('a second factor is set up, asked for at the next sign-in, and made up for when it is lost', async () => {
  const peju = await meet(signedIn(stage, 'p.adeyemi'));
  await peju.see('main', /[Ww]aiting for you/);
  await peju.go(`${stage.base}/account`);
  await peju.clickText('Set up codes');
  const words = await peju.see('[aria-label="Second factors"]', /type this key into it: [A-Z2-7]{32}/);
  const secret = /into it: ([A-Z2-7]{32})/.exec(words)![1]!;
  // One of now, and one of the period after it at the next sign-in: either stays good when a period ends on its way.
  const code = (after: 0 | 1) =>
    new TOTP({ secret: Secret.fromBase32(secret) }).generate({ timestamp: Date.now() + after * 30_000 });
  await peju.type('input[autocomplete=one-time-code]', code(0));
  await peju.clickText('Turn on codes');
  await peju.see('[aria-label="Second factors"]', /10 of 10 recovery codes are left/);
  const codes = await peju.read('[role=status] input', (e) => e.value);

  const again = await meet(signedIn(stage, 'p.adeyemi'));
  await again.see('main', /Show your second factor now/);
  await again.type('input[name=code]', '000000');
  await again.clickText('Continue', 'form button');
  await again.see('main', /This code does not fit/);
  await again.read('input[name=code]', (e) => e.select());
  await again.page.keyboard.type(code(1));
  await again.clickText('Continue', 'form button');
  await again.see('main', /[Ww]aiting for you/);

  const lost = await meet(signedIn(stage, 'p.adeyemi'));
  await lost.see('main', /Show your second factor now/);
  await lost.clickText('I lost my second factor');
  await lost.see('main', /One of your recovery codes/);
  await lost.type('input[name=code]', codes.split(' ')[0]!);
  await lost.clickText('Continue', 'form button');
  await lost.see('main', /[Ww]aiting for you/);
});

test('a passkey signs in beside the password', async () => {
  // A passkey belongs to a host name; a numeric address has none.
  const named = stage.base.replace('127.0.0.1', 'localhost');
  const ilya = await meet(stage.open('/', { apart: true }));
  const session = await ilya.page.createCDPSession();
  await session.send('WebAuthn.enable');
  const key = { protocol: 'ctap2', transport: 'internal', hasUserVerification: true, isUserVerified: true } as const;
  await session.send('WebAuthn.addVirtualAuthenticator', { options: { ...key, automaticPresenceSimulation: true } });
  const signIn = async () => {
    await ilya.go(named);
    await ilya.type('input[name=email]', 'i.benedek@saltmarsh.example');
    await ilya.type('input[name=password]', DEMO_PASSWORD);
    await ilya.clickText('Sign in', 'form button');
  };
  await signIn();
  await ilya.see('main', /[Ww]aiting for you/);
  await ilya.go(`${named}/account`);
  await ilya.type('aria/Name of a new passkey', 'Laptop');
  await ilya.clickText('Add a passkey');
  await ilya.see('[aria-label="Passkeys"]', /Laptop.*never/);
  await ilya.clickText('Sign out');
  await ilya.see('main', /Sign in/);
  await signIn();
  await ilya.see('main', /Show your second factor now/);
  await ilya.clickText('Use a passkey');
  await ilya.see('main', /[Ww]aiting for you/);
});

test('a student is erased: gone from every list, a line in the log without a name', async () => {
  await owner.go(`${stage.base}/c/1/students`);
  await owner.see('main', /42 of 42 students/);
  await owner.go(`${stage.base}/c/1/students/n7?part=facts`);
  const kept = await owner.see('[aria-label="Student data"]', /Data about .*Save everything as a file/);
  const name = /Data about (.*?) A student/.exec(kept)![1]!;
  await owner.clickText('Read or print everything', '[aria-label="Student data"]');
  await owner.see(
    'main',
    new RegExp(`Everything Zest Bell knows about ${name}.*Nudges.*Mail.*Who has access to the course`),
  );
  await owner.page.goBack();
  await owner.clickText('Erase …');
  await owner.type('[role=dialog] input', 'n7');
  await owner.clickText('Erase for good', '[role=dialog]');
  await owner.see('[aria-label="Erased students"]', /Ostrander (erased|is being erased)/);
  await owner.go(`${stage.base}/c/1/students`);
  expect(await owner.see('main', /41 of 41 students/)).not.toContain(name);
  await owner.go(`${stage.base}/c/1/log`);
  expect(await owner.see('main', /All nudges \d+/)).not.toContain(name);
});
