/** What tests wait for on a page may take its time on a busy machine: the library would wait for one second. */
import { configure } from '@testing-library/react';

configure({ asyncUtilTimeout: 20_000 });
