import type { MailTrouble } from '@zest-bell/core/nudges';
import type { MailTroubleAnswer } from '@zest-bell/core/exchange';

const WORDS: Readonly<Record<MailTrouble, string>> = {
  notSet: 'No mail server is set up yet.',
  password: 'The mail server refuses the password.',
  encryption: 'The connection to the mail server cannot be encrypted.',
  unreachable: 'The mail server cannot be reached.',
  refused: 'The mail server refuses the connection.',
  sender: 'The mail server refuses the sender address of this course.',
};

/** Why no mail leaves, in a sentence. */
export const mailTroubleWords = ({ trouble }: Pick<MailTroubleAnswer, 'trouble'>): string => WORDS[trouble];

const WHAT_TO_DO: Readonly<Record<MailTrouble, string>> = {
  notSet: 'Ask the person who runs Zest Bell to set up the mail server (ZEST_SMTP_URL).',
  password: 'Ask the person who runs Zest Bell to enter the new password (ZEST_SMTP_URL).',
  encryption: 'Show the mail server’s answer to the person who runs Zest Bell.',
  unreachable: 'If this continues, show the mail server’s answer to the person who runs Zest Bell.',
  refused: 'If this continues, show the mail server’s answer to the person who runs Zest Bell.',
  sender: 'Check the sender address in Course, or ask your mail administrator to allow it.',
};

export const mailTroubleHelp = ({ trouble }: Pick<MailTroubleAnswer, 'trouble'>): string => WHAT_TO_DO[trouble];
