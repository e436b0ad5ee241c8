/** Hands a file to the browser to be saved. */
export function save(name: string, address: string): void {
  const link = document.createElement('a');
  link.href = address;
  link.download = name;
  link.click();
}

export function saveText(name: string, text: string, type: string): void {
  const address = URL.createObjectURL(new Blob([text], { type: `${type};charset=utf-8` }));
  save(name, address);
  URL.revokeObjectURL(address);
}
