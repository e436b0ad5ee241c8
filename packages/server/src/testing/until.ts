/** Waits for something to become so, and no longer; throws when it does not in time. */
export async function until(what: () => boolean | Promise<boolean>, ms = 30_000): Promise<void> {
  for (const end = Date.now() + ms; !(await what());) {
    if (Date.now() > end) throw new Error('It did not come to that in time');
    await new Promise((resolve) => setTimeout(resolve, 25));
  }
}
