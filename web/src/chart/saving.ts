const named = (title: string, ending: string) =>
  `${
    title
      .toLowerCase()
      .replaceAll(/[^\p{L}\p{N}]+/gu, '-')
      .replaceAll(/^-|-$/g, '') || 'chart'
  }.${ending}`;

function offered(blob: Blob, name: string) {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(blob);
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 1000);
}

const vector = (svg: SVGSVGElement) => new XMLSerializer().serializeToString(svg);

/** A chart saved as a vector drawing. */
export const savedAsVector = (svg: SVGSVGElement, title: string) =>
  offered(new Blob([vector(svg)], { type: 'image/svg+xml' }), named(title, 'svg'));

/** A chart saved as a picture of twice its size. */
export async function savedAsPicture(svg: SVGSVGElement, title: string) {
  const image = new Image();
  image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(vector(svg))}`;
  await image.decode();
  const canvas = document.createElement('canvas');
  canvas.width = svg.viewBox.baseVal.width * 2;
  canvas.height = svg.viewBox.baseVal.height * 2;
  canvas.getContext('2d')?.drawImage(image, 0, 0, canvas.width, canvas.height);
  canvas.toBlob((blob) => blob && offered(blob, named(title, 'png')), 'image/png');
}
