// The first import of every entry: Zod decides when a schema is made whether to compile it, and the page's content
// policy forbids that.
import { config } from 'zod';

config({ jitless: true });
