/** Sends one order to a worker that ends with its answer. @throws Error with what went wrong in it */
export function askOnce<Asked, Answer>(worker: Worker, asked: Asked): Promise<Answer> {
  return new Promise<Answer>((done, fail) => {
    worker.onmessage = ({ data }: MessageEvent<Answer>) => done(data);
    worker.onerror = (event) => fail(new Error(event.message));
    worker.postMessage(asked);
  }).finally(() => worker.terminate());
}
