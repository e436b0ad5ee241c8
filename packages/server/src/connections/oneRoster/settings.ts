/** How a OneRoster service is reached, and which of its classes a course is: as the contract takes it. */
import { contract, type BodyRead } from '@zest-bell/core/contract';

export const oneRosterSchema = contract.connections.addOneRoster.body;
export type OneRosterInput = BodyRead<typeof contract.connections.addOneRoster>;
export type OneRosterSettings = Omit<OneRosterInput, 'kind' | 'clientSecret' | 'course'>;
