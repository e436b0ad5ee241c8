// Runs on PostgreSQL too. Covers wording/files.
/** What goes with a message beside its words, and who gets it: files, pictures, letters, words for third parties. */
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import type {
  LogAnswer,
  LogDetail,
  PreviewAnswer,
  RehearsalAnswer,
  RuleCard,
  WordingAnswer,
  WordingResultsAnswer,
} from '@zest-bell/core/exchange';
import { unzipSync } from 'fflate';
import { extractText, getDocumentProxy } from 'unpdf';
import { wrap } from '@mikro-orm/core';
import { CourseRow, PersonRow } from '../../course/entity.ts';
import { FileRow } from '../../wording/files/entity.ts';
import { runDueRounds } from '../../rounds/deciding/scheduler.ts';
import { openSmtp, type TestSmtp } from '../../testing/smtp.ts';
import { at, COURSE, openStage, ruleOf, type Agent, type StageSetting, type TestStage } from '../../testing/stage.ts';
import { WordingRow } from '../../wording/entity.ts';
import { unguarded } from '../../testing/unguarded.ts';

let stage: TestStage;
let smtp: TestSmtp;
let ada: Agent;
beforeEach(async () => {
  smtp = await openSmtp();
});
afterEach(async () => {
  await stage.close();
  await smtp.close();
});

const PDF = Buffer.from('%PDF-1.4\nA worksheet.');
const PNG = Buffer.from(
  'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
  'base64',
);
const BASE = '/api/v1/courses/1';
const contacts = [
  { kind: 'advisor', name: 'B. Lund', email: 'lund@saltmarsh.example' },
  { kind: 'guardian', name: 'M. Lind', email: 'M.Lind@home.example' },
];
const people = [{ ...COURSE.people[0]!, firstName: 'Zoë', contacts }, COURSE.people[3]!];
const items = [{ ...COURSE.items[0]!, url: 'https://learn.saltmarsh.example/q1' }];

async function open(setting: Partial<StageSetting> = {}): Promise<void> {
  stage = await openStage({ now: '2026-09-04T12:00', smtp: smtp.url, course: { people, items }, ...setting });
  ada = await stage.signIn();
}
const upload = (name: string, bytes: Buffer) =>
  ada
    .post(`${BASE}/files?name=${encodeURIComponent(name)}`)
    .type('application/octet-stream')
    .send(bytes);
const wording = async () =>
  ((await ada.get(`${BASE}/wordings`).expect(200)).body as WordingAnswer[]).find((w) => w.id === 'gentle')!;
async function save(more: object) {
  const { id, name, purpose, subject, text, version } = await wording();
  return ada.put(`${BASE}/wordings/gentle`).send({ version, wording: { id, name, purpose, subject, text, ...more } });
}
async function ring(): Promise<void> {
  stage.clock.set(at('2026-09-05T09:30'));
  await runDueRounds(stage.services);
  await stage.dispatcher.drain();
}
const steps = (...to: string[]) => [{ deliver: 'send', to, wording: 'gentle' }];

describe('a file', () => {
  beforeEach(() => open());

  test('that is taken in goes with the message, and the log names it', async () => {
    const file = (await upload('Tide sheet.pdf', PDF).expect(201)).body as object;
    expect(file).toMatchObject({ name: 'Tide sheet.pdf', type: 'application/pdf', size: PDF.length });
    expect((await save({ files: [file] })).status).toBe(200);
    await ring();
    const [sent] = smtp.mails;
    expect(sent!.mail.attachments).toMatchObject([{ filename: 'Tide sheet.pdf', contentType: 'application/pdf' }]);
    expect(sent!.mail.attachments[0]!.content.equals(PDF)).toBe(true);
    const log = (await ada.get(`${BASE}/log/1`).expect(200)).body as LogDetail;
    expect(log.to[0]!.attempts[0]!.files).toEqual(['Tide sheet.pdf']);
  });

  test('twice is kept once, and is shown again', async () => {
    const [a, b] = [(await upload('a.pdf', PDF)).body, (await upload('b.pdf', PDF)).body] as { id: string }[];
    expect(a!.id).toBe(b!.id);
    const got = await ada.get(`${BASE}/files/${a!.id}`).expect(200);
    expect(got.headers['content-disposition']).toBe('attachment; filename=a.pdf');
    await ada.get(`${BASE}/files/nothing`).expect(404);
  });

  test.each([
    ['program.exe', PDF, /Only pdf, png/],
    ['not-a.pdf', Buffer.from('MZ'), /not that of a .pdf file/],
    ['empty.txt', Buffer.alloc(0), /empty/],
    ['page.txt', Buffer.from([0xff, 0xfe, 0x00]), /not that of a .txt file/],
    ['large.pdf', Buffer.concat([PDF, Buffer.alloc(5_000_000)]), /5 MB; a file may have 5 MB/],
    ['large.png', Buffer.concat([PNG, Buffer.alloc(2_000_000)]), /2 MB; a picture may have 2 MB/],
  ])('%s is refused, and why', async (name, bytes, why) => {
    const { body } = await upload(name, bytes).expect(400);
    expect((body as { problems: { message: string }[] }).problems[0]!.message).toMatch(why);
  });

  test('is refused when the course has no room for more', async () => {
    const bytes = Buffer.from('x');
    const full = { course: 1, key: 'all', name: 'all', type: 'text/plain', size: 200_000_000, bytes, takenAt: 0 };
    await unguarded(stage.orm).insert(FileRow, full);
    const { body } = await upload('one.txt', bytes).expect(400);
    expect((body as { problems: { message: string }[] }).problems[0]!.message).toMatch(/200 MB of files already/);
  });

  test('loses the folders in its name', async () => {
    const { body } = await upload('..\\..\\etc/passwd.txt', Buffer.from('x')).expect(201);
    expect((body as { name: string }).name).toBe('passwd.txt');
  });

  test('that was never taken in cannot go with a wording', async () => {
    const refused = await save({ files: [{ id: 'nothing', name: 'x.pdf', type: 'application/pdf', size: 1 }] });
    expect(refused.status).toBe(422);
    expect((refused.body as { problems: object[] }).problems).toMatchObject([{ path: 'files', code: 'noFile' }]);
  });
});

test('a picture stands in the HTML and by its words in the plain text', async () => {
  await open();
  const { id } = (await upload('chart.png', PNG).expect(201)).body as { id: string };
  await save({ text: `{{ student.first_name }}, see ![the chart](picture:${id})` });
  await ring();
  const { mail } = smtp.mails[0]!;
  expect(mail.text!.trim()).toBe('Zoë, see [Picture: the chart]');
  expect(mail.attachments).toMatchObject([{ contentId: `<${id}>`, contentType: 'image/png', related: true }]);
  expect((await save({ text: '![gone](picture:0000)' })).status).toBe(422);
});

describe('a link to an item', () => {
  beforeEach(() => open());

  test('leads to its page', async () => {
    await save({ text: 'Here: {{ link["q1"] }}, or {{ link["q1"] }}.' });
    await ring();
    expect(smtp.mails[0]!.mail.html).toContain('<a href="https://learn.saltmarsh.example/q1">Tide tables quiz</a>');
    expect(smtp.mails[0]!.mail.text).toContain('Tide tables quiz (https://learn.saltmarsh.example/q1)');
  });

  test('that is not in the course is said before anything is sent', async () => {
    expect((await save({ text: '{{ link["nowhere"] }}' })).body).toMatchObject({
      code: 'wordingBroken',
      problems: [{ message: 'It names the item “nowhere”, which is not in this course' }],
    });
    await unguarded(stage.orm).nativeUpdate(WordingRow, { key: 'gentle' }, { body: '{{ link["nowhere"] }}' });
    await ada
      .post(`${BASE}/rules/rehearse`)
      .send({ rule: ruleOf({ steps: steps('student') }) })
      .expect(422);
    const { version } = await stage.rule();
    await ada
      .post(`${BASE}/rules/status`)
      .send({ status: 'on', rules: [{ rule: 'away', version }] })
      .expect(422);
  });
});

describe('a letter', () => {
  const letter = { page: 'A4', fileName: 'Note for {{ student.full_name }}', attach: true };
  const textOf = async (bytes: Buffer) => {
    const pdf = await getDocumentProxy(new Uint8Array(bytes));
    return { pages: pdf.numPages, ...(await extractText(pdf, { mergePages: true })), page: await pdf.getPage(1) };
  };
  beforeEach(() => open());

  test('goes with the message as a PDF under the student’s name', async () => {
    await save({ letter });
    await ring();
    const [file] = smtp.mails[0]!.mail.attachments;
    expect(file).toMatchObject({ filename: 'Note for Zoë Lind.pdf', contentType: 'application/pdf' });
    const { text, pages, page } = await textOf(file!.content);
    expect(pages).toBe(1);
    expect(text).toMatch(/Dr\. A\. Lind\s+NAV 120 Coastal Navigation\s+Saturday, September 5\s+Zoë Lind/);
    expect(text).toContain('it has been 5 days.');
    // ISO 216: A4 is 210 by 297 mm, in points of 1/72 inch.
    expect(page.view.map(Math.round)).toEqual([0, 0, Math.round((210 / 25.4) * 72), Math.round((297 / 25.4) * 72)]);
  });

  test('is downloaded for one, and for several as an archive', async () => {
    const draft = {
      id: 'gentle',
      name: 'G',
      purpose: 'support',
      subject: 'S',
      text: '**Well** *done*\n\n- a\n- b',
      letter,
    };
    const body = { wording: draft, when: null, students: ['p1'] };
    const one = await ada.post(`${BASE}/wordings/letters`).send(body).responseType('blob').expect(200);
    expect(one.headers['content-disposition']).toContain("filename*=UTF-8''Note%20for%20Zo%C3%AB%20Lind.pdf");
    expect((await textOf(one.body as Buffer)).text).toMatch(/Well done\s+•\s*a\s+•\s*b/);
    // One student named twice has one letter; two of one name have one each.
    const em = unguarded(stage.orm);
    const p1 = await em.findOneOrFail(PersonRow, { key: 'p1' });
    em.create(PersonRow, { ...wrap(p1).toPOJO(), id: 99, key: 'p2', position: 99 });
    await em.flush();
    await unguarded(stage.orm).nativeUpdate(CourseRow, { id: 1 }, { version: 2 });
    const all = { ...body, students: ['p1', 'p2', 'p1'] };
    const zip = await ada.post(`${BASE}/wordings/letters`).send(all).responseType('blob').expect(200);
    expect(Object.keys(unzipSync(new Uint8Array(zip.body as Buffer)))).toEqual([
      'Note for Zoë Lind.pdf',
      'Note for Zoë Lind (p2).pdf',
    ]);
  });
});

describe('third parties', () => {
  const copies = [
    {
      to: 'contact:advisor',
      subject: 'An advisee',
      text: 'Dear {{ reader.name }}, look after {{ student.first_name }}.',
    },
  ];

  test('read words of their own, without the student’s files or pause link', async () => {
    await open({ rules: [ruleOf({ steps: steps('student', 'contact:advisor') })], publicUrl: 'https://bell.example' });
    const file = (await upload('sheet.pdf', PDF)).body as object;
    await save({ copies, files: [file] });
    await ring();
    const to = (address: string) => smtp.mails.find((m) => m.to[0] === address);
    const [toStudent, toAdvisor] = [to('p1@saltmarsh.example'), to('lund@saltmarsh.example')];
    expect(toStudent!.mail.attachments).toHaveLength(1);
    expect(toAdvisor!.mail.subject).toBe('An advisee');
    expect(toAdvisor!.mail.text!.trim()).toBe('Dear B. Lund, look after Zoë.');
    expect(toAdvisor!.mail.attachments).toEqual([]);
    expect(toAdvisor!.mail.headers.has('list-unsubscribe')).toBe(false);
    // The log names the nudge by what its student read, no matter who was written to last.
    const { lines } = (await ada.get(`${BASE}/log`).expect(200)).body as LogAnswer;
    expect(lines[0]!.subject).toBe('A quiet week in Coastal Navigation');
  });

  test('are rehearsed, each beside the student’s own', async () => {
    await open();
    await save({ copies });
    const rule = ruleOf({ steps: steps('student', 'contact:advisor', 'instructor') });
    const order = { rule, at: at('2026-09-05T09:30') };
    const { body } = await ada.post(`${BASE}/rules/rehearse`).send(order).expect(200);
    const [nudge] = (body as RehearsalAnswer).nudges;
    expect(nudge!.messages.map((m) => [m.to.address, m.message.subject])).toEqual([
      ['p1@saltmarsh.example', 'A quiet week in Coastal Navigation'],
      ['lund@saltmarsh.example', 'An advisee'],
      ['ada@saltmarsh.example', 'About Zoë Lind: A quiet week in Coastal Navigation'],
    ]);
  });

  test('are previewed as they read it', async () => {
    await open();
    const draft = { id: 'gentle', name: 'G', purpose: 'support', subject: 'S', text: 'T', copies };
    const body = { wording: draft, when: null, student: 'p1', reader: 'contact:advisor' };
    const { body: said } = await ada.post(`${BASE}/wordings/preview`).send(body).expect(200);
    expect((said as PreviewAnswer).message.text).toBe('Dear B. Lund, look after Zoë.');
  });

  describe('outside the institution', () => {
    const status = async (more: object = {}) => {
      const { version } = await stage.rule();
      return ada.post(`${BASE}/rules/status`).send({ status: 'on', rules: [{ rule: 'away', version }], ...more });
    };
    beforeEach(() =>
      open({ rules: [ruleOf({ status: 'paused', steps: steps('student', 'contact:guardian', 'contact:advisor') })] }),
    );

    test('are named before a rule that writes to them is on, and get one yes a rule', async () => {
      const refused = await status();
      expect(refused.status).toBe(409);
      expect(refused.body).toMatchObject({ code: 'outsideAddresses' });
      expect((refused.body as { problems: { message: string }[] }).problems.map((p) => p.message)).toEqual([
        '“Away” would write about students to m.lind@home.example, outside your institution',
      ]);
      const said = await status({ outside: ['M.Lind@home.example', 'nobody@else.example'] });
      expect(said.status).toBe(200);
      const [card] = (await ada.get(`${BASE}/rules`)).body as RuleCard[];
      expect(card!.outside).toEqual(['m.lind@home.example']);
      expect((await status()).status).toBe(200);
    });

    test('that appear later wait for a yes, which the rule keeps', async () => {
      await status({ outside: ['m.lind@home.example'] });
      const em = unguarded(stage.orm);
      const row = await stage.rule();
      await em.nativeUpdate('RuleRow', { id: row.id }, { outside: [] });
      await ring();
      expect(smtp.mails.map((m) => m.to[0]).sort()).toEqual(['lund@saltmarsh.example', 'p1@saltmarsh.example']);
      const log = (await ada.get(`${BASE}/log/1`)).body as LogDetail;
      expect(log.to.map((m) => [m.state, m.heldFor])).toEqual([
        ['sent', null],
        ['held', 'outside'],
        ['sent', null],
      ]);
      // While the third party's waits its words stay, though the student's has left and no rule says them.
      const steps = [{ after: { days: 0 }, deliver: 'send', to: ['student'], wording: 'other' }];
      await em.nativeUpdate('RuleRow', { id: row.id }, { document: { ...row.document, steps } });
      const kept = await ada.post(`${BASE}/wordings/gentle/remove`).send({ version: 1 });
      expect(kept.body).toMatchObject({ code: 'wordingInUse', problems: [{ code: 'waiting' }] });
      await em.nativeUpdate('RuleRow', { id: row.id }, { document: row.document });
      await ada
        .post(`${BASE}/log/1/decide`)
        .send({ as: 'send', messages: [log.to[1]!.id] })
        .expect(200);
      expect(smtp.mails.map((m) => m.to[0])).toContain('M.Lind@home.example');
      expect((await stage.rule()).outside).toEqual(['m.lind@home.example']);
    });
  });
});

test('what came of a wording counts returns and answers of nudges that are two weeks old', async () => {
  await open();
  const results = async () =>
    ((await ada.get(`${BASE}/wordings/results`).expect(200)).body as WordingResultsAnswer)['gentle']!;
  await ring();
  stage.clock.set(at('2026-09-08T09:30'));
  await stage.tell([{ id: 'v', person: 'p1', kind: 'visit', at: '2026-09-07T10:00:00-04:00' }]);
  expect((await results()).all).toMatchObject({ sent: 1, open: 1, returns: null });
  stage.clock.set(at('2026-09-19T09:30'));
  const later = await results();
  expect(later.all).toMatchObject({ sent: 1, open: 0, returns: { count: 1, of: 1 }, replies: { count: 0, of: 1 } });
  expect(later.better).toBeNull();
});
