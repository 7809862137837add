import type { Tree, TreeNode, TreeRow } from '../api/client';

export type Path = number[];

const under = (node: TreeNode): TreeNode[] => node.under ?? [];

/** The node at a path; undefined if there is none. */
export function nodeAt(tree: Tree, path: Path): TreeNode | undefined {
  let nodes = tree.roots ?? [];
  let node: TreeNode | undefined;
  for (const i of path) {
    node = nodes[i];
    if (!node) return undefined;
    nodes = under(node);
  }
  return node;
}

/** The tree with the list of nodes under a path changed (the roots for the empty path). */
function withList(tree: Tree, path: Path, change: (nodes: TreeNode[]) => TreeNode[]): Tree {
  const go = (nodes: TreeNode[], rest: Path): TreeNode[] => {
    const [at, ...more] = rest;
    if (at === undefined) return change(nodes);
    return nodes.map((node, i) => (i === at ? { ...node, under: go(under(node), more) } : node));
  };
  return { ...tree, roots: go(tree.roots ?? [], path) };
}

/** The tree with one node changed. */
export function changed(tree: Tree, path: Path, change: Partial<TreeNode>): Tree {
  const last = path[path.length - 1];
  return withList(tree, path.slice(0, -1), (nodes) =>
    nodes.map((n, i) => (i === last ? { ...n, ...change } : n)),
  );
}

/** The tree without the given values, wherever they are. */
function withoutValues(tree: Tree, values: Set<string>): Tree {
  const go = (nodes: TreeNode[]): TreeNode[] =>
    nodes
      .filter((n) => n.value === null || n.value === undefined || !values.has(n.value))
      .map((n) => (n.value === null || n.value === undefined ? { ...n, under: go(under(n)) } : n));
  return { ...tree, roots: go(tree.roots ?? []) };
}

/** Every node of a value, for its label. */
function valueNodes(nodes: TreeNode[]): TreeNode[] {
  return nodes.flatMap((n) => (n.value === null || n.value === undefined ? valueNodes(under(n)) : [n]));
}

const asNode = (known: TreeNode[], value: string): TreeNode => ({
  ...(known.find((n) => n.value === value) ?? { value }),
  since: null,
});

/** The tree with values gathered into a new category after the other roots. */
export function gathered(tree: Tree, values: string[], label: string): Tree {
  const known = valueNodes(tree.roots ?? []);
  const left = withoutValues(tree, new Set(values));
  return { ...left, roots: [...(left.roots ?? []), { label, under: values.map((v) => asNode(known, v)) }] };
}

/** The tree with values moved to the end of the category at a path; for null, out of the tree. */
export function movedTo(tree: Tree, values: string[], path: Path | null): Tree {
  const known = valueNodes(tree.roots ?? []);
  const marked = path ? changed(tree, path, { label: `${nodeAt(tree, path)?.label}\u0000` }) : tree;
  const left = withoutValues(marked, new Set(values));
  if (!path) return left;
  const go = (nodes: TreeNode[]): TreeNode[] =>
    nodes.map((n) =>
      n.label?.endsWith('\u0000')
        ? { ...n, label: n.label.slice(0, -1), under: [...under(n), ...values.map((v) => asNode(known, v))] }
        : { ...n, under: n.under ? go(n.under) : n.under },
    );
  return { ...left, roots: go(left.roots ?? []) };
}

/** The tree with values placed in the category at a path from a day on; until then they stay where they are. */
export function movedFrom(tree: Tree, values: string[], path: Path, since: string): Tree {
  const known = valueNodes(tree.roots ?? []);
  const fresh = values.map((value) => ({ ...asNode(known, value), since }));
  const added = changed(tree, path, { under: [...under(nodeAt(tree, path) ?? {}), ...fresh] });
  const go = (nodes: TreeNode[]): TreeNode[] =>
    nodes
      .filter((n) => !n.value || n.since !== since || !values.includes(n.value) || fresh.includes(n as never))
      .map((n) => (n.value ? n : { ...n, under: go(under(n)) }));
  return { ...added, roots: go(added.roots ?? []) };
}

/** The node moved up or down among its siblings. */
export function reordered(tree: Tree, path: Path, by: number): Tree {
  const at = path[path.length - 1] ?? 0;
  return withList(tree, path.slice(0, -1), (nodes) => {
    const to = at + by;
    if (to < 0 || to >= nodes.length) return nodes;
    const copy = [...nodes];
    const [node] = copy.splice(at, 1);
    if (node) copy.splice(to, 0, node);
    return copy;
  });
}

/** The node at `from` put before the one at `before`, in that one's list. */
export function placedBefore(tree: Tree, from: Path, before: Path): Tree {
  const node = nodeAt(tree, from);
  const inside = from.length <= before.length && from.every((step, i) => step === before[i]);
  if (!node || inside) return tree;
  const at = before[before.length - 1] ?? 0;
  const added = withList(tree, before.slice(0, -1), (nodes) => nodes.toSpliced(at, 0, { ...node }));
  const go = (nodes: TreeNode[]): TreeNode[] =>
    nodes.filter((n) => n !== node).map((n) => (n.under?.length ? { ...n, under: go(n.under) } : n));
  return { ...added, roots: go(added.roots ?? []) };
}

/** The tree without a category, whose children take its place. */
export function ungrouped(tree: Tree, path: Path): Tree {
  const at = path[path.length - 1];
  return withList(tree, path.slice(0, -1), (nodes) => nodes.flatMap((n, i) => (i === at ? under(n) : [n])));
}

/** The tree with the category at `from` merged into the one at `into`. */
export function merged(tree: Tree, from: Path, into: Path): Tree {
  const source = nodeAt(tree, from);
  if (!source || from.join() === into.join()) return tree;
  const filled = changed(tree, into, { under: [...under(nodeAt(tree, into) ?? {}), ...under(source)] });
  const at = from[from.length - 1];
  return withList(filled, from.slice(0, -1), (nodes) => nodes.filter((_, i) => i !== at));
}

/** A label that no root has. */
export function freeLabel(tree: Tree, wanted: string): string {
  const taken = new Set((tree.roots ?? []).map((n) => n.label));
  let label = wanted;
  for (let n = 2; taken.has(label); n += 1) label = `${wanted} ${n}`;
  return label;
}

/** The longest common prefix of the texts, for a rule that matches them. */
export function commonStart(values: string[]): string {
  const [first = ''] = values;
  let length = first.length;
  for (const value of values) while (!value.startsWith(first.slice(0, length))) length -= 1;
  return first.slice(0, values.length > 1 ? length : Math.min(length, 4));
}

/** The key of a line of the tree: its value, or a category's path. */
export const rowKey = (row: TreeRow) => (row.value !== null ? `=${row.value}` : row.path.join('.'));

/** The same for a temporary placement of a value. */
export const placeKey = (row: TreeRow) => `${rowKey(row)} ${row.since ?? ''}`;
