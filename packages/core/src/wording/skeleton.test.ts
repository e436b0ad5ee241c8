import { expect, test } from '@jest/globals';
import { saysNothing } from './skeleton.ts';

const SKELETON = '{{ student.first_name }},\n\n\n\n{{ sender.signature }}';

test.each([
  ['', true],
  [SKELETON, true],
  ['{{ student.first_name | default: "Hello" }},\n\n{{ sender.signature }}', true],
  ['Dear {{ student.first_name }},\n\n \u00a0 \n\nKind regards,\n{{ sender.name }}', true],
  ['Hi!\n\nWarmly, R. Ostrander', true],
  ['{% if student.first_name %}{{ student.first_name }}{% endif %},', true],
  [SKELETON.replace('\n\n\n\n', '\n\nPlease come to class.\n\n'), false],
  [SKELETON.replace('\n\n\n\n', '\n\n{{ student.missing_list }}\n\n'), false],
  [SKELETON.replace('\n\n\n\n', '\n\n![chart](picture:abc)\n\n'), false],
  [SKELETON.replace('\n\n\n\n', '\n\n7\n\n'), false],
  ['さようなら', false],
])('%j says nothing: %s', (text, nothing) => {
  expect(saysNothing(text, 'Warmly, R. Ostrander')).toBe(nothing);
});
