/** Speaks with Stem Trace in the name of one person, signing in again when a session has ended. */
export class Teller {
  private cookie: string | undefined;

  constructor(
    private readonly as: { readonly store: string; readonly login: string; readonly password: string },
  ) {}

  /** @throws Error in the words of Stem Trace */
  async ask<T>(method: 'GET' | 'POST', path: string, body?: unknown): Promise<T> {
    this.cookie ??= await this.signIn();
    let response = await this.send(method, path, body, this.cookie);
    if (response.status === 401) {
      this.cookie = await this.signIn();
      response = await this.send(method, path, body, this.cookie);
    }
    const answer = (await response.json()) as T & { readonly detail?: string };
    if (!response.ok) throw new Error(answer.detail ?? `Stem Trace answered ${response.status}.`);
    return answer;
  }

  private async signIn(): Promise<string> {
    const { login, password } = this.as;
    const response = await this.send('POST', '/api/session', { login, password });
    const cookie = response.headers.getSetCookie()[0]?.split(';')[0];
    if (!response.ok || cookie === undefined)
      throw new Error(`The shop could not sign in to Stem Trace as ${login}.`);
    return cookie;
  }

  private send(method: string, path: string, body?: unknown, cookie?: string): Promise<Response> {
    return fetch(this.as.store + path, {
      method,
      headers: { 'Content-Type': 'application/json', ...(cookie === undefined ? {} : { Cookie: cookie }) },
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
  }
}
