/** What is laid over each other, as on the screen: before in copper, after in blue. */
export const INKS = { before: '#96470f', after: '#1b59b3', both: '#b4bcc0', around: '#4a575e' } as const;
