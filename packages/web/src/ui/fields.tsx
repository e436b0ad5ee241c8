/** Small form controls with their label, all of one height. */
import { outOfRange } from '@zest-bell/core/problem';
import { useTyped } from './useTyped.ts';
import { useId, useState, type ReactNode, type SelectHTMLAttributes } from 'react';

export function Labelled({
  label,
  children,
  problem,
}: {
  readonly label: string;
  readonly children: (id: string) => ReactNode;
  readonly problem?: string | undefined;
}) {
  const id = useId();
  return (
    <div className="labelled flex min-w-0 flex-col gap-1">
      <label htmlFor={id} className="text-[13px] font-semibold text-ink-2">
        {label}
      </label>
      {children(id)}
      {problem && (
        <p id={`${id}-problem`} className="text-[13px] font-semibold text-tangerine-text">
          <span aria-hidden>▲ </span>
          {problem}
        </p>
      )}
    </div>
  );
}

/**
 * A number that is committed as soon as it is one; what is half typed stays in the field and changes nothing.
 * Bounds: `min` and `max` both included; a range of the core can be spread into it.
 */
export function NumberField(props: {
  readonly label: string;
  readonly value: number | null;
  readonly onChange: (value: number | null) => void;
  readonly min?: number | null;
  readonly max?: number | null;
  readonly whole?: boolean;
  readonly unit?: string;
  /** What an empty field means; without it an empty field is a problem. */
  readonly empty?: string;
}) {
  const { value, whole = false, min = null, max = null } = props;
  const written = value === null ? '' : String(value);
  const [typed, setTyped] = useState({ text: written, value });
  // Follows changes from outside (a drag, undo) without disturbing what is being typed.
  const text = typed.value === value ? typed.text : written;
  const problem = problemOf(text);
  function problemOf(draft: string): string | undefined {
    const trimmed = draft.trim();
    if (trimmed === '') return props.empty === undefined ? 'Type a number' : undefined;
    return outOfRange(Number(trimmed), { whole, min, max }) ?? undefined;
  }
  return (
    <Labelled label={props.label} problem={problem}>
      {(id) => (
        <span className="flex items-center gap-2">
          <input
            id={id}
            inputMode="decimal"
            autoComplete="off"
            className="field w-24 font-num"
            value={text}
            placeholder={props.empty}
            aria-invalid={problem !== undefined}
            aria-describedby={problem ? `${id}-problem` : undefined}
            onChange={(e) => {
              const draft = e.target.value;
              if (problemOf(draft)) return setTyped({ text: draft, value });
              const next = draft.trim() === '' ? null : Number(draft);
              setTyped({ text: draft, value: next });
              if (next !== value) props.onChange(next);
            }}
          />
          {props.unit && <span className="text-ink-2">{props.unit}</span>}
        </span>
      )}
    </Labelled>
  );
}

/** A text that is committed as soon as there is one. */
export function TextField({
  label,
  value,
  onChange,
}: {
  readonly label: string;
  readonly value: string;
  readonly onChange: (value: string) => void;
}) {
  const [text, type] = useTyped(value);
  const [touched, setTouched] = useState(false);
  // An empty field is no mistake before somebody was in it.
  const problem = touched && text.trim() === '' ? 'Fill this in' : undefined;
  return (
    <Labelled label={label} problem={problem}>
      {(id) => (
        <input
          id={id}
          className="field"
          value={text}
          aria-invalid={problem !== undefined}
          onBlur={() => setTouched(true)}
          onChange={(e) => {
            const fits = e.target.value.trim() !== '';
            setTouched(true);
            type(e.target.value);
            if (fits) onChange(e.target.value);
          }}
        />
      )}
    </Labelled>
  );
}

export function SelectField({
  label,
  children,
  ...rest
}: SelectHTMLAttributes<HTMLSelectElement> & { readonly label: string }) {
  return (
    <Labelled label={label}>
      {(id) => (
        <select id={id} {...rest} className={`field min-w-0 ${rest.className ?? ''}`}>
          {children}
        </select>
      )}
    </Labelled>
  );
}

export function Check({
  label,
  checked,
  disabled = false,
  onChange,
}: {
  readonly label: ReactNode;
  readonly checked: boolean;
  readonly disabled?: boolean;
  readonly onChange: (checked: boolean) => void;
}) {
  return (
    <label className="flex cursor-pointer items-center gap-2 py-0.5">
      <input
        type="checkbox"
        disabled={disabled}
        className="size-4 accent-(--pine)"
        checked={checked}
        onChange={(e) => onChange(e.target.checked)}
      />
      <span>{label}</span>
    </label>
  );
}

/** One of several choices of a fieldset; `name` is the same for all of them. */
export function Choice(props: {
  readonly name: string;
  readonly label: ReactNode;
  readonly checked: boolean;
  readonly onChoose: () => void;
}) {
  return (
    <label className="flex cursor-pointer items-center gap-2">
      <input
        type="radio"
        name={props.name}
        className="size-4 accent-(--pine)"
        checked={props.checked}
        onChange={props.onChoose}
      />
      {props.label}
    </label>
  );
}

/** A local date. Bounds: `min` and `max` both included. */
export function DateField(props: {
  readonly label: string;
  readonly value: string;
  readonly min?: string;
  readonly max?: string;
  readonly problem?: string | undefined;
  readonly onChange: (date: string) => void;
}) {
  return (
    <Labelled label={props.label} problem={props.problem}>
      {(id) => (
        <input
          id={id}
          type="date"
          className="field font-num text-[13.5px]"
          value={props.value}
          min={props.min}
          max={props.max}
          aria-invalid={props.problem !== undefined}
          onChange={(e) => e.target.value && props.onChange(e.target.value)}
        />
      )}
    </Labelled>
  );
}

/** A local time of day, `HH:MM`. */
export function TimeField(props: {
  readonly label: string;
  readonly value: string;
  readonly onChange: (time: string) => void;
}) {
  return (
    <Labelled label={props.label}>
      {(id) => (
        <input
          id={id}
          type="time"
          className="field w-36 font-num"
          value={props.value}
          onChange={(e) => e.target.value && props.onChange(e.target.value)}
        />
      )}
    </Labelled>
  );
}
