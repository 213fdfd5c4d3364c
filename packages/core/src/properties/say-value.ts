import type { PropertyValue } from '../model/reading.js';

/** A value as it is shown and as it can be entered again. */
export function sayValue(property: PropertyValue): string {
  switch (property.kind) {
    case 'text':
      return property.text;
    case 'number':
      return `${property.value} ${property.unit}`.trim();
    case 'choice':
      return property.choice;
    case 'date':
      return property.date;
    case 'yes/no':
      return property.yes ? 'yes' : 'no';
  }
}
