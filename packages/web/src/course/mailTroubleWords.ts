import type { MailTrouble, MailTroubleAnswer } from '@zest-bell/core';

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
  notSet: 'Whoever runs Zest Bell sets ZEST_SMTP_URL and starts it again.',
  password: 'Whoever runs Zest Bell puts the new password into ZEST_SMTP_URL and starts it again.',
  encryption: 'Show the mail server’s answer to whoever runs Zest Bell.',
  unreachable: 'If it lasts, show the mail server’s answer to whoever runs Zest Bell.',
  refused: 'If it lasts, show the mail server’s answer to whoever runs Zest Bell.',
  sender: 'Check the sender address in Course, or ask your mail administrator to allow it.',
};

export const mailTroubleHelp = ({ trouble }: Pick<MailTroubleAnswer, 'trouble'>): string => WHAT_TO_DO[trouble];
