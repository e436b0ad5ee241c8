/** A part of a rule typed as words, above the controls that say the same. */
import { useMemo, useState } from 'react';
import type { Course } from '@zest-bell/core/course';
import { saidSentence, type SaidRule } from '@zest-bell/core/saying';
import { SayingField } from './SayingField.tsx';

export function SayPart(props: {
  readonly course: Course;
  readonly label: string;
  readonly placeholder: string;
  readonly takes: readonly (keyof SaidRule)[];
  /** The local date and time of a rhythm of which neither is said. */
  readonly start?: string;
  readonly onTake: (said: SaidRule) => void;
}) {
  const { course, takes, start } = props;
  const [text, setText] = useState('');
  const key = takes.join();
  const options = useMemo(
    () => ({ only: key.split(',') as (keyof SaidRule)[], ...(start !== undefined && { start }) }),
    [key, start],
  );
  return (
    <SayingField
      course={course}
      label={props.label}
      placeholder={props.placeholder}
      options={options}
      text={text}
      onText={setText}
      understood={(rule) => <p data-testid="understood">{saidSentence(rule, course)}</p>}
      spoken={(rule) => saidSentence(rule, course)}
      takes="Use it"
      onTake={(rule) => {
        props.onTake(rule);
        setText('');
      }}
    />
  );
}
