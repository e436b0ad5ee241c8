/** The voice of a course: typed text is kept, errors are named, and a student's change loses none of it. */
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { cleanup, screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useAllKept } from '../../lib/useKept.ts';
import { hereOf } from '../../testing/here.ts';
import { inPage } from '../../testing/inPage.tsx';
import { network, FakeRefusal } from '../../testing/network.ts';
import { lastToast } from '../../testing/toasts.ts';
import { SenderCard } from './SenderCard.tsx';

beforeEach(() => {
  useAllKept.setState({ kept: {} });
});
afterEach(cleanup);

const SIGNATURE = 'Signature';
const field = (name: string) => screen.getByLabelText<HTMLInputElement>(name);
const saved = hereOf();
const withVersions = (version: number, settingsVersion: number) => ({
  ...saved,
  answer: { ...saved.answer, version, settingsVersion },
});

describe('the sender of a course', () => {
  test('keeps what is typed while students change, and takes in what somebody else saved', async () => {
    inPage(<SenderCard here={withVersions(4, 2)} />);
    await userEvent.setup().type(field(SIGNATURE), ', Navigation');
    cleanup();
    // A student paused nudges: the course is another one, its settings are not.
    inPage(<SenderCard here={withVersions(9, 2)} />);
    expect(field(SIGNATURE).value).toBe('Ada Lind, Navigation');
    cleanup();
    network({ 'GET /courses/1/last-change': { by: 'Bo Quist', at: 0 } });
    const other = withVersions(10, 3);
    const sender = { ...saved.answer.sender, officeHours: 'Mondays' };
    inPage(<SenderCard here={{ ...other, answer: { ...other.answer, sender } }} />);
    expect(await screen.findByText(/Bo Quist changed this sender/)).toBeTruthy();
    expect(field(SIGNATURE).value).toBe('Ada Lind, Navigation');
    await userEvent.setup().click(screen.getByRole('button', { name: 'Continue with both changes' }));
    expect([field(SIGNATURE).value, field('Office hours, as a sentence').value]).toEqual([
      'Ada Lind, Navigation',
      'Mondays',
    ]);
    expect(screen.queryByRole('alert')).toBeNull();
  });

  test('is saved against the settings that were seen', async () => {
    const asked = network({ 'PUT /courses/1/sender': undefined });
    inPage(<SenderCard here={withVersions(9, 2)} />);
    const user = userEvent.setup();
    await user.type(field(SIGNATURE), '!');
    await user.click(screen.getByRole('button', { name: /Save/ }));
    await waitFor(() => expect(lastToast().title).toBe('Saved. The next message uses these settings.'));
    expect(asked[0]!.body).toMatchObject({ version: 2, sender: { signature: 'Ada Lind!' } });
    expect(useAllKept.getState().kept).toEqual({});
  });

  test('names the field that does not fit, and keeps it', async () => {
    const problem = {
      path: 'sender.replyTo',
      code: 'address',
      message: 'Type one address, such as ada@college.example',
    };
    network({
      'PUT /courses/1/sender': new FakeRefusal(400, { title: 'Not saved.', code: 'invalidInput', problems: [problem] }),
    });
    inPage(<SenderCard here={saved} />);
    const user = userEvent.setup();
    await user.type(field(SIGNATURE), '!');
    await user.click(screen.getByRole('button', { name: /Save/ }));
    expect(await screen.findByText(/Type one address/)).toBeTruthy();
    expect(field(SIGNATURE).value).toBe('Ada Lind!');
  });

  test('says when the server does not know its public address', () => {
    inPage(<SenderCard here={{ ...saved, answer: { ...saved.answer, pauseLinks: false } }} />);
    expect(screen.getByText(/no link for pausing nudges yet/)).toBeTruthy();
  });
});
