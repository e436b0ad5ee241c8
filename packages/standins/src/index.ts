/** The stand-ins for the outside world: time, mail, and a learning platform. Only the composition root knows them. */
export * from './clock/demoClock.ts';
export * from './mailroom/letters.ts';
export * from './mailroom/smtp.ts';
export * from './mailroom/routes.ts';
export * from './campus/habits.ts';
export * from './campus/correspondence.ts';
export * from './campus/simulator.ts';
export * from './demo/saltmarsh.ts';
export * from './demo/remarks.ts';
export * from './demo/stage.ts';
export * from './mailroom/switches.ts';
export * from './mailroom/answers.ts';
export * from './platform/platform.ts';
