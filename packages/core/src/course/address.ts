const ADDRESS = /^[^\s@<>",;]+@[^\s@<>",;]+\.[^\s@<>",;]+$/;

/** Whether a text is an email address alone: nothing beside it that could name a second one in a header. */
export const isAddress = (text: string): boolean => ADDRESS.test(text);
