import type { PipeTransform } from '@nestjs/common';
import type { Schema } from 'joi';
import { ProblemError } from './problem.js';

/** Validates and converts what came in at one door with its Joi schema. */
export class Validate<T> implements PipeTransform<unknown, T> {
  constructor(private readonly schema: Schema<T>) {}

  transform(value: unknown): T {
    const { error, value: valid } = this.schema.validate(value ?? {}, {
      abortEarly: false,
      stripUnknown: false,
    });
    if (error) {
      throw new ProblemError(
        'INPUT_INVALID',
        `${error.message}. Nothing was changed.`,
        error.details.map((detail) => detail.message),
      );
    }
    return valid as T;
  }
}
