// The one worker of a page: every place computes in it on the same measures.
import '../zodSetup.ts';
import { expose } from 'comlink';
import { Moments } from './moments.ts';

expose(new Moments());
