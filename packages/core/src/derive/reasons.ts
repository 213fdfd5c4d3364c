import type { Reason } from './types.js';

/** A reason as the end of a sentence. */
export function sayReason(reason: Reason): string {
  switch (reason.kind) {
    case 'top':
      return 'it is what the variant is made from';
    case 'decided':
      return 'decided by hand';
    case 'all':
      return 'everything is copied';
    case 'notChosen':
      return 'not chosen for copying';
    case 'bought':
      return 'bought';
    case 'designed':
      return 'own design';
    case 'within':
      return `it belongs to ${reason.number}, which is shared`;
    case 'contains':
      return `it contains ${reason.number}, which is copied`;
    case 'changes':
      return reason.how === 'added'
        ? `${reason.number} is added to it`
        : `it contains ${reason.number}, which is ${reason.how}`;
    case 'unused':
      return 'nothing of the variant uses it';
    case 'apart':
      return `made of other things in ${reason.chain.join(' > ')}`;
    case 'livesIn':
      return `it lives in the file of ${reason.number}, which is copied`;
    case 'drawingOf':
      return `it is the drawing of ${reason.number}, which is copied`;
    case 'drawingStays':
      return 'what it shows is shared';
    case 'drawnOn':
      return 'it is only drawn on';
    case 'carries':
      return `${reason.number}, which is copied, lives in its file`;
  }
}
