import createCache, { type EmotionCache } from '@emotion/cache';

/** The styles that components make, in the layer `mui`: those of style sheets are set above them. They bear the nonce that came
 * with the document, for its policy allows no other. */
export function layeredStyles(nonce: string): EmotionCache {
  const styles = createCache({ key: 'css', ...(nonce ? { nonce } : {}) });
  const { insert } = styles;
  styles.insert = (selector, serialized, sheet, shared) => {
    if (!serialized.styles.startsWith('@layer')) serialized.styles = `@layer mui {${serialized.styles}}`;
    return insert(selector, serialized, sheet, shared);
  };
  return styles;
}
