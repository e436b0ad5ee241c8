import { expect, test } from '@jest/globals';
import { sealOf } from './seal.ts';

test('what is sealed is read with the same secret and purpose alone, and not once it was changed', () => {
  const seal = sealOf('secret', 'factors');
  const sealed = seal.close('JBSWY3DPEHPK3PXP');
  expect(sealed).not.toContain('JBSW');
  expect(seal.close('JBSWY3DPEHPK3PXP')).not.toBe(sealed);
  expect(seal.open(sealed)).toBe('JBSWY3DPEHPK3PXP');
  expect(seal.mark('p1')).toBe(seal.mark('p1'));
  expect([seal.mark('p2'), sealOf('another', 'factors').mark('p1')]).not.toContain(seal.mark('p1'));
  expect(() => sealOf('another', 'factors').open(sealed)).toThrow();
  expect(() => sealOf('secret', 'sources').open(sealed)).toThrow();
  const changed = Buffer.from(sealed, 'base64url');
  changed[changed.length - 1]! ^= 1;
  expect(() => seal.open(changed.toString('base64url'))).toThrow();
});
