import { describe, expect, test } from '@jest/globals';
import { ACCESS_ROLES, CAPABILITIES, capabilitiesOf, OWNERS_ALONE, TOKEN_CAPABILITIES } from './capabilities.ts';

const ALONE = { assistantsDecide: false };

describe('what a role may in a course', () => {
  test('an owner may everything, a co-instructor all but who has access, erasing and tokens', () => {
    expect(capabilitiesOf('owner', ALONE)).toEqual(CAPABILITIES);
    const coInstructor = capabilitiesOf('co-instructor', ALONE);
    expect(CAPABILITIES.filter((c) => !coInstructor.includes(c))).toEqual([...OWNERS_ALONE]);
    expect(coInstructor).toEqual(TOKEN_CAPABILITIES);
  });

  test('an assistant reads and drafts, and decides on nudges only where the course lets its assistants', () => {
    expect(capabilitiesOf('assistant', ALONE)).toEqual(['course.read', 'counts.read', 'drafts.write']);
    expect(capabilitiesOf('assistant', { assistantsDecide: true })).toEqual([
      ...['course.read', 'counts.read', 'drafts.write', 'nudges.decide'],
    ]);
  });

  test('an observer counts and sees nobody, and no term of a course gives another role more', () => {
    expect(capabilitiesOf('observer', ALONE)).toEqual(['counts.read']);
    for (const role of ACCESS_ROLES.filter((r) => r !== 'assistant'))
      expect(capabilitiesOf(role, { assistantsDecide: true })).toEqual(capabilitiesOf(role, ALONE));
  });
});
