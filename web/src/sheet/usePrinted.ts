import { useEffect } from 'react';

/**
 * Print the whole sheet of a report or an edition, whatever of it the screen shows: before printing, the server's blocks for
 * paper are put in the place of the page. Asked for synchronously, since a browser waits for nothing else.
 */
export function usePrinted(base: string) {
  useEffect(() => {
    let shown: { style: CSSStyleSheet; body: Element } | null = null;
    const take = () => {
      if (!shown) return;
      const { style, body } = shown;
      document.adoptedStyleSheets = document.adoptedStyleSheets.filter((one) => one !== style);
      body.remove();
      shown = null;
    };
    const put = () => {
      take();
      const text = fetched(`/api${base}/file?format=html&shape=print`);
      if (text === null) return;
      // the style goes in as a sheet of its own: as an element the page's policy would stop it
      const [element = '', css = ''] = /<style>([^]*?)<\/style>/.exec(text) ?? [];
      const found = new DOMParser().parseFromString(text.replace(element, ''), 'text/html');
      const body = found.querySelector('.printed');
      if (!body) return;
      const style = new CSSStyleSheet();
      style.replaceSync(css);
      document.adoptedStyleSheets = [...document.adoptedStyleSheets, style];
      document.body.append(body);
      shown = { style, body };
    };
    addEventListener('beforeprint', put);
    addEventListener('afterprint', take);
    return () => {
      removeEventListener('beforeprint', put);
      removeEventListener('afterprint', take);
      take();
    };
  }, [base]);
}

/** A text from the server, loaded synchronously; null if there is none. */
function fetched(address: string): string | null {
  const request = new XMLHttpRequest();
  request.open('GET', address, false);
  try {
    request.send();
  } catch {
    return null;
  }
  return request.status === 200 ? request.responseText : null;
}
