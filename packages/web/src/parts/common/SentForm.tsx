/** Forms of a few texts that are sent once and kept nowhere: signing in, invitations, passwords. A refusal is shown at its field. */
import type { FormEvent, InputHTMLAttributes } from 'react';
import { ApiProblem, errorWords } from '../../lib/api.ts';
import { useAsking, type RequestState } from '../../lib/useAsking.ts';
import { Labelled } from '../../ui/fields.tsx';

/** The text in the field of a name; empty if there is no such field. */
type TypedText = (field: string) => string;

export interface SentForm extends Pick<RequestState, 'busy' | 'error' | 'run'> {
  readonly problemOf: (field: string) => string | undefined;
  readonly onSubmit: (event: FormEvent<HTMLFormElement>) => void;
}

const inTheForm = () => undefined;

/** `under`: where the fields are in the request, such as `account.`. */
export function useSentForm(send: (typed: TypedText) => Promise<void>, under = ''): SentForm {
  const { busy, error, problemAt, run } = useAsking(inTheForm);
  return {
    busy,
    error,
    run,
    problemOf: (field) => problemAt(under + field),
    onSubmit(event) {
      event.preventDefault();
      const typed = new FormData(event.currentTarget);
      void run(() =>
        send((field) => {
          const text = typed.get(field);
          return typeof text === 'string' ? text : '';
        }),
      );
    },
  };
}

const KINDS = {
  name: { autoComplete: 'name' },
  email: { type: 'email', autoComplete: 'username' },
  password: { type: 'password', autoComplete: 'current-password' },
  newPassword: { type: 'password', autoComplete: 'new-password' },
  code: { autoComplete: 'one-time-code', inputMode: 'numeric', className: 'field font-num' },
  words: { autoComplete: 'off', className: 'field font-num' },
} as const satisfies Record<string, InputHTMLAttributes<HTMLInputElement>>;

export function FormField(props: {
  readonly form: SentForm;
  readonly name: string;
  readonly kind: keyof typeof KINDS;
  readonly label: string;
  readonly value?: string | undefined;
  readonly autoFocus?: boolean;
}) {
  return (
    <Labelled label={props.label} problem={props.form.problemOf(props.name)}>
      {(id) => (
        <input
          className="field"
          {...KINDS[props.kind]}
          id={id}
          name={props.name}
          defaultValue={props.value ?? ''}
          autoFocus={props.autoFocus}
        />
      )}
    </Labelled>
  );
}

/** What was refused for a reason that is no field's. */
export function FormAlert({ form }: { readonly form: SentForm }) {
  if (form.error === null || (form.error instanceof ApiProblem && form.error.problems.length > 0)) return null;
  return (
    <p role="alert" className="font-semibold text-tangerine-text">
      <span aria-hidden>▲ </span>
      {errorWords(form.error)}
    </p>
  );
}
