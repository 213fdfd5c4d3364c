/** Hashes files away from the page, one after another. In: files; out: one message a file, in order. */
self.onmessage = async (event: MessageEvent<readonly File[]>): Promise<void> => {
  for (const file of event.data) {
    const digest = await crypto.subtle.digest('SHA-256', await file.arrayBuffer());
    const sha256 = [...new Uint8Array(digest)].map((byte) => byte.toString(16).padStart(2, '0')).join('');
    self.postMessage(sha256);
  }
};
