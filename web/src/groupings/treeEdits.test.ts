import { describe, expect, test } from 'vitest';

import type { Tree, TreeNode } from '../api/client';
import {
  commonStart,
  gathered,
  merged,
  movedFrom,
  movedTo,
  nodeAt,
  placedBefore,
  reordered,
  ungrouped,
} from './treeEdits';

const TREE = {
  kalendor: 1,
  kind: 'tree',
  name: 'T',
  levels: ['Area', 'Route'],
  roots: [
    { label: 'North', under: [{ value: 'a', label: 'Alpha' }, { value: 'b' }] },
    { label: 'South', under: [{ value: 'c' }] },
  ],
} as Tree;

/** Categories with their children: values, with the day from which they are placed there. */
const shape = (tree: Tree): unknown[] => {
  const of = (node: TreeNode): unknown =>
    node.value
      ? node.value + (node.since ? `@${node.since}` : '')
      : [node.label, ...(node.under ?? []).map(of)];
  return (tree.roots ?? []).map(of);
};

test('values are gathered, moved and let go', () => {
  const east = gathered(TREE, ['a', 'new'], 'East');
  expect(shape(east)).toEqual([
    ['North', 'b'],
    ['South', 'c'],
    ['East', 'a', 'new'],
  ]);
  expect(east.roots?.[2]?.under?.[0]?.label).toBe('Alpha');
  expect(shape(movedTo(TREE, ['a', 'b'], [1]))).toEqual([['North'], ['South', 'c', 'a', 'b']]);
  expect(shape(movedTo(TREE, ['a'], null))).toEqual([
    ['North', 'b'],
    ['South', 'c'],
  ]);
});

test('a value moves from a day on, and again', () => {
  const once = movedFrom(TREE, ['a'], [1], '2026-01-01');
  expect(shape(once)).toEqual([
    ['North', 'a', 'b'],
    ['South', 'c', 'a@2026-01-01'],
  ]);
  const back = movedFrom(once, ['a'], [0], '2026-06-01');
  expect(shape(back)).toEqual([
    ['North', 'a', 'b', 'a@2026-06-01'],
    ['South', 'c', 'a@2026-01-01'],
  ]);
  expect(shape(movedFrom(once, ['a'], [0], '2026-01-01'))).toEqual([
    ['North', 'a', 'b', 'a@2026-01-01'],
    ['South', 'c'],
  ]);
  expect(shape(movedTo(back, ['a'], [1]))).toEqual([
    ['North', 'b'],
    ['South', 'c', 'a'],
  ]);
});

test('categories are ordered, merged and taken away', () => {
  expect(shape(reordered(TREE, [1], -1))).toEqual([
    ['South', 'c'],
    ['North', 'a', 'b'],
  ]);
  expect(reordered(TREE, [0], -1)).toEqual(TREE);
  expect(shape(merged(TREE, [0], [1]))).toEqual([['South', 'c', 'a', 'b']]);
  expect(merged(TREE, [0], [0])).toEqual(TREE);
  expect(shape(ungrouped(TREE, [0]))).toEqual(['a', 'b', ['South', 'c']]);
  expect(nodeAt(TREE, [0, 1])).toEqual({ value: 'b' });
  expect(nodeAt(TREE, [4, 1]) ?? null).toBeNull();
});

describe('a line is put before another', () => {
  const whole = [
    ['North', 'a', 'b'],
    ['South', 'c'],
  ];
  test.each([
    [[1], [0], [whole[1], whole[0]]],
    [
      [0, 0],
      [1, 0],
      [
        ['North', 'b'],
        ['South', 'a', 'c'],
      ],
    ],
    [
      [0, 1],
      [0, 0],
      [['North', 'b', 'a'], whole[1]],
    ],
    [[0], [1, 0], [['South', ['North', 'a', 'b'], 'c']]],
    [[0], [0, 1], whole],
    [[0], [0], whole],
  ])('%j before %j', (from, before, want) => {
    expect(shape(placedBefore(TREE, from, before))).toEqual(want);
  });
});

test.each([
  [['BRA-1', 'BRA-2'], 'BRA-'],
  [['BRA-1'], 'BRA-'],
  [['x', 'y'], ''],
  [[], ''],
])('what values begin with makes a rule: %j', (values, want) => expect(commonStart(values)).toBe(want));
