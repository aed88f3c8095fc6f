import { type Tree, TreeFragment } from "@lezer/common";
import { parser } from "./parser.ts";

/** The grammar's parser; its trees keep each row apart, so that a changed row leaves the others as they were. */
export const strandParser = parser.configure({ bufferLength: 64 });

let last: { text: string; tree: Tree } | null = null;

/**
 * The tree of a text. Rows that it shares with the text read before it are taken over, not read again; but only where
 * neither has a fault: how a faulty text is mended by the reading must not depend on what was read before it.
 */
export function treeOf(text: string): Tree {
  if (last) {
    const fragments = TreeFragment.applyChanges(TreeFragment.addTree(last.tree), [changeBetween(last.text, text)]);
    const tree = strandParser.parse(text, fragments);
    if (isSound(tree)) {
      last = { text, tree };
      return tree;
    }
  }
  const tree = strandParser.parse(text);
  if (isSound(tree)) last = { text, tree };
  return tree;
}

function isSound(tree: Tree): boolean {
  const at = tree.cursor();
  do if (at.type.isError) return false;
  while (at.next());
  return true;
}

/** What differs between two texts, as one replaced stretch. */
function changeBetween(before: string, after: string) {
  const most = Math.min(before.length, after.length);
  let from = 0;
  while (from < most && before[from] === after[from]) from++;
  let end = 0;
  while (end < most - from && before[before.length - 1 - end] === after[after.length - 1 - end]) end++;
  return { fromA: from, toA: before.length - end, fromB: from, toB: after.length - end };
}
