import { describe, expect, it } from 'vitest';
import { clause, hasClause, toggledClause } from './query-text.js';

describe('filters in the words of a search', () => {
  it('are put in and taken out as text', () => {
    const draft = clause('state', 'draft');
    expect(draft).toBe('state = draft');
    expect(toggledClause('bracket', draft)).toBe('bracket state = draft');
    expect(toggledClause('bracket state = draft kind = part', draft)).toBe('bracket kind = part');
    expect(toggledClause(toggledClause('a "b  c"', draft), draft)).toBe('a "b c"');
  });

  it('put names with blanks into quotes', () => {
    expect(clause('wall thickness', 'in check')).toBe('"wall thickness" = "in check"');
  });

  it('are not found inside longer ones', () => {
    expect(hasClause('state = drafty', 'state = draft')).toBe(false);
    expect(hasClause('mystate = draft', 'state = draft')).toBe(false);
    expect(hasClause('(state = draft)', 'state = draft')).toBe(false);
    expect(hasClause('state = drafty state = draft', 'state = draft')).toBe(true);
  });
});
