/** What a browser keeps is empty before each test: files of one suite share a browser, as they share modules. */
import { beforeEach } from 'vitest';

// What is waited for comes; a machine that has much to do at the moment needs longer for it.
if (typeof document !== 'undefined')
  (await import('@testing-library/react')).configure({ asyncUtilTimeout: 10_000 });

beforeEach(() => {
  if (typeof window === 'undefined') return;
  window.localStorage.clear();
  window.sessionStorage.clear();
});
