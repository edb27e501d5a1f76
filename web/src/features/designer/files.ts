/** Hands a text to the browser as a file to keep. */
export function saveFile({ name, type, text }: { name: string; type: string; text: string }): void {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(new Blob([text], { type }));
  link.download = name;
  link.click();
  URL.revokeObjectURL(link.href);
}
