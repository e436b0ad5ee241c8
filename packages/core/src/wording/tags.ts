/** What is in a text as a template’s own: merge fields, and the conditions around them. */
export const LIQUID_TAGS = /\{\{[^]*?\}\}|\{%[^]*?%\}/g;
