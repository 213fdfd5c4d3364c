/** What a browser keeps is empty before each test: files of one suite share a browser, as they share modules. */
import { beforeEach } from 'vitest';

beforeEach(() => {
  if (typeof window === 'undefined') return;
  window.localStorage.clear();
  window.sessionStorage.clear();
});
