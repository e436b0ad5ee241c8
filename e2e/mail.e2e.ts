/** Words and mail, from the library to the student's answer: written, mended, sent, read on a phone, answered, paused. */
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { openStage, type BrowserStage } from './harness.ts';
import type { Scene } from './scene.ts';

let stage: BrowserStage;
let scene: Scene;
beforeEach(async () => {
  stage = await openStage();
  scene = await stage.openDemo();
  await scene.see('main', /Quiet for five days/);
});
afterEach(async () => {
  expect(scene.complaints).toEqual([]);
  await stage.stop();
});

const DIALOG = '[role=dialog]';
const go = (path: string) => scene.go(`${stage.base}${path}`);

/** Rings a rule of the demo now and gives the first student who heard. */
async function ring(rule: string): Promise<string> {
  await go(`/c/1/rules/${rule}`);
  await scene.clickText('Check now', '[aria-label="The rule"]');
  await scene.see(DIALOG, /will leave at once/);
  const first = await scene.text(`${DIALOG} ul [aria-pressed=true] strong`);
  await scene.clickText('Check now', `${DIALOG} footer`);
  await scene.gone(DIALOG);
  await scene.see('body', /The rule ran: \d+ messages? on the way/);
  return first;
}

async function openLetter(student: string): Promise<void> {
  await go('/mailroom');
  await scene.type('aria/Find a mailbox', student);
  await scene.clickText(student, 'nav');
  await scene.see('article', /How are things|to /);
}

test('a wording is copied, given a second text, and mended by two checks', async () => {
  await go('/c/1/wording');
  await scene.see('main', /Gentle check-in.*Sent \d+ /);
  await scene.clickLabelled('Copy Gentle check-in');
  await scene.see(DIALOG, /Gentle check-in \(copy\)/);
  await scene.clickText('+ another text', DIALOG);
  const area = await scene.page.waitForSelector('aria/Text[role="textbox"]');
  await area!.focus();
  await scene.page.keyboard.down('Control');
  await scene.press('a');
  await scene.page.keyboard.up('Control');
  await scene.press('Delete');
  await scene.page.keyboard.type('How is Coastal Navigation going? There is still time.');
  await scene.see('[aria-label=Checks]', /first name.*“Coastal Navigation” is typed.*no way to reply/);
  await scene.clickText('Begin with it', DIALOG);
  await scene.clickText('Use the field', DIALOG);
  await scene.clickText('Add such a line', DIALOG);
  await scene.see(DIALOG, /The checks found nothing in this text/);
  await scene.see(
    DIALOG,
    /Imani, How is Coastal Navigation going\? There is still time\. If something is in the way, I am online/,
  );

  // A list, a personal value with its fallback, and a part that appears only when there is something to say.
  await area!.focus();
  await scene.page.keyboard.down('Control');
  await scene.press('End');
  await scene.page.keyboard.up('Control');
  await scene.press('Enter');
  await scene.page.keyboard.type('- first your question');
  await scene.press('Enter');
  await scene.page.keyboard.type('then the rest');
  await scene.press('Enter');
  await scene.press('Enter');
  await scene.clickText('+ only if there is', DIALOG);
  await scene.pick('turned in');
  await scene.backInText();
  await scene.page.keyboard.type('Still open: ');
  await scene.clickText('+ personal value', DIALOG);
  await scene.pick('turned in');
  await scene.backInText();
  await scene.see(DIALOG, /first your question then the rest Still open: Watch log, week 1/);
  await scene.clickText('Show the source', DIALOG);
  const written = await scene.read('textarea[aria-label=Text]', (t) => t.value);
  expect(written).toContain('- first your question\n- then the rest');
  expect(written).toMatch(
    /{% if student\.missing_items %}Still open: {{ student\.missing_items \| default: "[^"]+" }}{% endif %}/,
  );
  await scene.clickText('Show chips', DIALOG);
  await scene.clickText('Send a test to me', DIALOG);
  await scene.see('body', /The test is in your inbox/);

  // Everybody may be read; the longest name is one of the awkward ones.
  await scene.select('aria/Read as[role="combobox"]', /the longest name/);
  await scene.see(DIALOG, /Benedikt[^,]*, How is Coastal Navigation going/);
  await scene.clickText('Save wording', `${DIALOG} footer`);
  await scene.see('main', /Gentle check-in \(copy\).*2 texts.*not used by any rule/);
  await scene.gone(DIALOG);
  // What was just said is at the foot of the page, over nothing that is pressed.
  await scene.clickLabelled('Close toast');
  await scene.clickLabelled('Remove Gentle check-in (copy)');
  await scene.see('body', /Removed “Gentle check-in \(copy\)”/);
  await scene.clickText('Undo', '[data-sonner-toast]');
  await scene.see('main', /Gentle check-in \(copy\)/);
});

test('the sender is changed, and the mail settings are tested', async () => {
  await go('/c/1/course');
  const field = await scene.page.waitForSelector('aria/Address that messages come from[role="textbox"]');
  await field!.click({ count: 3 });
  await field!.type('nobody');
  await scene.clickText('Save sender', 'main');
  await scene.see('[aria-label=Sender]', /Type one address, such as ada@college.example/);
  await field!.click({ count: 3 });
  await field!.type('navigation@saltmarsh.example');
  await scene.clickText('Save sender', 'main');
  // Nobody sends from an address that is not proven to be theirs; an administrator may answer for one.
  await scene.see('[aria-label=Sender]', /This address is not proven yet.*Mail a code/);
  await scene.page.evaluate(async () => {
    const { account } = (await (await fetch('/api/v1/session')).json()) as { account: { id: number } };
    const body = JSON.stringify({ account: account.id, address: 'navigation@saltmarsh.example' });
    const headers = { 'content-type': 'application/json' };
    const answer = await fetch('/api/v1/admin/senders/accept', { method: 'POST', headers, body });
    if (!answer.ok) throw new Error(`The address was not accepted: ${answer.status}`);
  });
  await scene.clickText('Save sender', 'main');
  await scene.see('body', /The next message uses these settings/);
  await scene.see('[aria-label=Sender]', /Saved Send a test to me/);
  await scene.clickText('Send a test to me', 'main');
  await scene.see('[aria-label=Sender]', /The mail server accepted the test.*250 .*accepted/);
});

test('a letter is read and answered on a phone, and the answer stands on Today and in the log', async () => {
  const student = await ring('quiet');
  await scene.page.setViewport({ width: 390, height: 844 });
  await openLetter(student);
  await scene.type('aria/Reply as ' + student + '[role="textbox"]', 'Thank you for asking. I was ill, and I am back.');
  await scene.clickText('Send reply', 'article');
  await scene.see('body', /The reply is on its way/);
  await scene.page.setViewport({ width: 1280, height: 800 });
  await go('/c/1/today');
  await scene.see('main', new RegExp(`Replies to answer.*${student}.*I was ill, and I am back`));
  const line = await scene.page.$$eval(
    '[data-testid^=reply-]',
    (all, name) => all.find((l) => l.textContent?.includes(name))?.getAttribute('data-testid'),
    student,
  );
  await scene.clickText('See the nudge', `[data-testid=${line}]`);
  await scene.see('[aria-label="The nudge"]', new RegExp(`Reply ${student}.*forwarded to you.*I was ill`));
  // It reached the instructor's own mailbox too.
  await go('/mailroom?box=r.ostrander%40saltmarsh.example');
  await scene.see('article', new RegExp(`${student} \\(NAV 120\\)`));
});

test('a mail server that is off keeps what waits until it is back, and a bounce marks the address', async () => {
  await go('/mailroom');
  await scene.select('select', 'off');
  const student = await ring('quiet');
  // No message fails for it: one sentence on every place says why mail waits, and Today has what to do.
  await scene.see(
    '[data-testid=standing]',
    /The mail server refuses the connection\. Mail is waiting\. No message is lost\./,
  );
  await go('/c/1/log?view=queued');
  await scene.see('[aria-label="The nudge"]', /queued.*Leaves/);
  await go('/c/1/today');
  await scene.see('main', /The mail server said: 421 4\.3\.2 The mail server is switched off/);
  await go('/mailroom');
  await scene.select('select', 'open');
  await go('/c/1/today');
  await scene.clickText('Try again now', 'main');
  await scene.until(() => !document.body.innerText.includes('The mail server said'));
  expect(await scene.page.$('[data-testid=standing]')).toBeNull();
  await go('/c/1/log?rule=quiet');
  await scene.see('[aria-label="The nudge"]', /1 attempt: accepted by the mail server/);

  await openLetter(student);
  await scene.clickText('Bounce this message', 'article');
  await scene.see('body', /The message bounced/);
  await go('/c/1/today');
  await scene.see('main', new RegExp(`Mail to ${student} came back.*The address does not work`));
});

test('a student pauses nudges from the letter without signing in', async () => {
  const student = await ring('quiet');
  await openLetter(student);
  await scene.clickText('Headers', 'article');
  const headers = await scene.see('article', /List-Unsubscribe/i);
  const link = /<(http:\/\/[^>\s]+\/p\/[^>\s]+)>/.exec(headers)![1]!;
  const { page } = await stage.open(new URL(link).pathname, { apart: true });
  const said = () => page.$eval('main', (e) => e.innerText.replace(/\s+/g, ' '));
  expect(await said()).toMatch(/You get messages like this one.*Why you got the message.*last visit/);
  await Promise.all([page.waitForNavigation(), page.click('button.main')]);
  expect(await said()).toMatch(/You have paused such messages until the end of the term, Dec 18/);
  await go('/c/1/today');
  await scene.see('main', new RegExp(`paused nudges: .*${student} until`));
});

test('a student answers from the letter with one press, and it is a reply like any other', async () => {
  const student = await ring('quiet');
  await openLetter(student);
  await scene.clickText('Headers', 'article');
  const link = /<(http:\/\/[^>\s]+\/p\/[^>\s]+)>/.exec(await scene.see('article', /List-Unsubscribe/i))![1]!;
  const { page } = await stage.open(new URL(link).pathname, { apart: true });
  await page.type('textarea[name=line]', 'come to the lab on Thursday');
  await Promise.all([page.waitForNavigation(), page.click('button[value=will]')]);
  expect(await page.$eval('[role=status]', (e) => e.textContent)).toBe('Thank you. Dr. R. Ostrander sees it.');
  // Opened again, as a phone does with its tabs, it asks once more and has sent nothing twice.
  await page.goto(page.url());
  expect(new URL(page.url()).pathname).toBe(new URL(link).pathname);
  await go('/c/1/today');
  await scene.see('#replies', new RegExp(`${student}.*I will … come to the lab on Thursday`));
});

test('a round for many shows how far its mail is, and is stopped in the middle and started again', async () => {
  await go('/mailroom');
  await scene.select('select', 'slow');
  await go('/c/1/rules');
  const call = <T>(path: string, body: object): Promise<T> =>
    scene.page.evaluate(
      async (to, sent) => {
        const headers = { 'content-type': 'application/json' };
        const res = await fetch(`/api/v1/courses/1${to}`, { method: 'POST', headers, body: sent });
        return (await res.json()) as T;
      },
      path,
      JSON.stringify(body),
    );
  const rule = {
    id: 'all',
    name: 'Everybody at once',
    status: 'draft',
    audience: { roles: ['student'] },
    when: { measure: 'daysSinceVisit', is: '>=', value: 0 },
    rhythm: { start: '2026-10-27T09:30', rrule: 'FREQ=DAILY' },
    repeat: { perSpell: 1 },
    essential: true,
    steps: [{ after: { days: 0 }, deliver: 'send', to: ['student'], wording: 'gentle' }],
  };
  const made = await call<{ rule: { id: string } }>('/rules', { rule });
  const { id } = made.rule;
  await call('/rules/status', { status: 'on', rules: [{ rule: id, version: 1 }], confirmed: true });
  await call(`/rules/${id}/ring`, { confirmed: true });
  await go('/c/1/today').catch(() => undefined);
  await scene.see('body', /Sending: \d+ of 41/);
  await scene.clickText('Stop all mail');
  await scene.see('[data-testid=standing]', /All mail of this course has been stopped/);
  const queued = () =>
    scene.page.evaluate(async () => {
      const res = await fetch('/api/v1/courses/1/standing');
      return ((await res.json()) as { queued: number }).queued;
    });
  expect(await queued()).toBeGreaterThan(0);
  await go('/mailroom');
  await scene.select('select', 'open');
  await go('/c/1/rules');
  await call('/mail/start', { queued: 'send', missed: 'skip' });
  // The demo's mail server takes them one after another.
  await scene.page.waitForFunction(
    async (rule) => {
      const res = await fetch(`/api/v1/courses/1/log?rule=${rule}&take=100`);
      const { counts } = (await res.json()) as { counts: { all: number; sent: number } };
      return counts.all === 41 && counts.sent === 41;
    },
    { polling: 200 },
    id,
  );
  expect(await queued()).toBe(0);
});
