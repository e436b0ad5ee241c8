/** What a sender is: a name, addresses, and words below; of a course, or of one of its people. */
import type { OwnSender } from '@zest-bell/core/course';
import type { MailTestAnswer } from '@zest-bell/core/exchange';
import { NOT_PROVEN } from '@zest-bell/core/exchange';
import { ProveAddress } from '../common/ProveAddress.tsx';
import { Labelled } from '../../ui/fields.tsx';

export const SENDER_FIELDS = [
  { key: 'name', label: 'Name that students see', long: false },
  { key: 'address', label: 'Address that messages come from', long: false },
  { key: 'replyTo', label: 'Address for replies', long: false },
  { key: 'officeHours', label: 'Office hours, as a sentence', long: false },
  { key: 'bookingUrl', label: 'Web page where students book a time (optional)', long: false },
  { key: 'signature', label: 'Signature', long: true },
] as const;

export function SenderFields(props: {
  readonly sender: OwnSender;
  readonly problemOf: (key: string) => string | undefined;
  readonly onChange: (part: Partial<OwnSender>) => void;
}) {
  const { sender, problemOf, onChange: change } = props;
  return (
    <>
      {SENDER_FIELDS.map((f) => (
        <div key={f.key}>
          <Labelled label={f.label} problem={problemOf(f.key)}>
            {(id) =>
              f.long ? (
                <textarea
                  id={id}
                  rows={2}
                  className="field"
                  value={sender[f.key] ?? ''}
                  onChange={(e) => change({ [f.key]: e.target.value })}
                />
              ) : (
                <input
                  id={id}
                  className="field"
                  value={sender[f.key] ?? ''}
                  aria-invalid={problemOf(f.key) !== undefined}
                  onChange={(e) => change({ [f.key]: e.target.value })}
                />
              )
            }
          </Labelled>
          {problemOf(f.key) === NOT_PROVEN && (
            <ProveAddress address={sender[f.key] ?? ''} onProven={() => change({})} />
          )}
        </div>
      ))}
    </>
  );
}

const SAID: Readonly<Record<MailTestAnswer['kind'], string>> = {
  sent: 'The mail server accepted the test. Check your own inbox.',
  transient: 'The mail server did not accept the test now. Try again later.',
  permanent: 'The mail server rejected the test. Check the addresses above.',
  unavailable: 'The mail server accepts no mail from Zest Bell right now. Its answer says why.',
  unknown: 'The connection broke while the test was sent. Check whether it arrived.',
};

/** What the mail server said to a test. */
export const TestSaid = ({ answer }: { readonly answer: MailTestAnswer }) => (
  <p role="status" className="min-w-0 flex-1 text-[14px]">
    {answer.kind === 'sent' ? '' : '▲ '}
    {SAID[answer.kind]} <span className="font-num text-[12.5px] break-words text-ink-3">{answer.response}</span>
  </p>
);
