/** Hands a file to the browser to be saved. */
export function save(name: string, address: string): void {
  const link = document.createElement('a');
  link.href = address;
  link.download = name;
  link.click();
}

/** Saves bytes that the page has. */
export function saveBytes(name: string, bytes: Blob): void {
  const address = URL.createObjectURL(bytes);
  save(name, address);
  // The browser reads it after the click.
  setTimeout(() => URL.revokeObjectURL(address), 10_000);
}

export const saveText = (name: string, text: string, type: string): void =>
  saveBytes(name, new Blob([text], { type: `${type};charset=utf-8` }));
