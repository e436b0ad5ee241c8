/** The page of controls as HTML; `styles` are the addresses of the built style sheets. */
export function controlsPage(styles: readonly string[]): Promise<string>;
