// Random numbers, which page, worker and Node all have.

declare const crypto: { getRandomValues(array: Uint8Array): Uint8Array }
