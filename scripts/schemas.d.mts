/** The text that the file with the JSON Schemas of all answers should have. */
export function answerSchemas(): Promise<string>;
