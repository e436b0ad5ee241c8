declare module 'common-password-checker' {
  /** Whether a password is one of the ten thousand most common ones. */
  export default function isCommon(password: string): boolean;
}
