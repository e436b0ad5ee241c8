import { formatInstant, instantWords, type Instant } from '@zest-bell/core/time';

/** An instant as a person says it, in the course's zone; the exact one on hover. */
export function When({
  at,
  zone,
  words = instantWords,
}: {
  readonly at: Instant;
  readonly zone: string;
  readonly words?: (at: Instant, zone: string) => string;
}) {
  const exact = formatInstant(at, zone);
  return (
    <time dateTime={exact} title={`${exact} (${zone})`}>
      {words(at, zone)}
    </time>
  );
}
