import type { KeyEntry, Problem } from "@jar-count/core/contract";
import { constructOf, type ExampleKeys, RESERVED, strandParser } from "@jar-count/core/shorthand";
import {
  acceptCompletion,
  autocompletion,
  closeBrackets,
  closeBracketsKeymap,
  type CompletionContext,
  completionKeymap,
} from "@codemirror/autocomplete";
import { defaultKeymap } from "@codemirror/commands";
import {
  bracketMatching,
  HighlightStyle,
  LanguageSupport,
  LRLanguage,
  syntaxHighlighting,
  syntaxTree,
} from "@codemirror/language";
import { type Diagnostic, setDiagnostics } from "@codemirror/lint";
import { Annotation, Compartment, EditorState, StateEffect, StateField, type Text } from "@codemirror/state";
import {
  Decoration,
  type DecorationSet,
  EditorView,
  keymap,
  lineNumbers,
  placeholder,
  tooltips,
} from "@codemirror/view";
import { styleTags, tags } from "@lezer/highlight";
import { useEffect, useRef } from "react";
import type { Lit } from "../../ui/StrandPicture.tsx";

export interface ShorthandEditorProps {
  part: string;
  label: string;
  text: string;
  keys: readonly KeyEntry[];
  /** Keys of sub-assemblies, with their names. */
  subs: readonly { key: string; name: string }[];
  sizes: readonly string[];
  /** The keys that examples of the notation are written in. */
  exampleKeys: ExampleKeys;
  problems: readonly Problem[];
  /** What would put a problem right, each in one step. */
  mendsFor: (problem: Problem) => { say: string; act: () => void }[];
  lit: Lit | null;
  /** A place to go to; a new object each time. */
  goTo: { row: number; from: number; to: number } | null;
  /** Text to be put where the cursor stands, and what is called once it is there. */
  putIn: { text: string } | null;
  onPutIn: () => void;
  onChange: (text: string) => void;
  onLight: (lit: Lit | null) => void;
  /** Help is asked for about the word at the cursor; empty for none. */
  onHelp: (word: string) => void;
}

const language = LRLanguage.define({
  name: "strand",
  parser: strandParser.configure({
    props: [
      styleTags({
        Label: tags.labelName,
        Times: tags.operator,
        Keyword: tags.keyword,
        Size: tags.labelName,
        "Comment Note": tags.comment,
        Place: tags.keyword,
        '">"': tags.modifier,
      }),
    ],
  }),
  languageData: { commentTokens: { line: "#" }, closeBrackets: { brackets: ["(", "{"] } },
});

// Beads are the plain text, in the weight of the whole field: an element for each of a thousand beads would have the
// browser spend a frame on every key.
const look = HighlightStyle.define([
  { tag: [tags.operator, tags.keyword], color: "var(--action)" },
  { tag: tags.modifier, color: "var(--muted)" },
  { tag: tags.labelName, color: "var(--muted)", fontWeight: "400" },
  { tag: tags.comment, color: "var(--muted)", fontWeight: "400", fontStyle: "italic" },
]);

const theme = EditorView.theme({
  "&": { fontSize: "14px", backgroundColor: "var(--hush)", borderRadius: "6px", color: "var(--ink)" },
  "&.cm-focused": { outline: "2px solid var(--action)", outlineOffset: "1px" },
  ".cm-scroller": { fontFamily: '"Sometype Mono", monospace', lineHeight: "24px" },
  ".cm-gutters, .cm-placeholder": { fontWeight: "400" },
  ".cm-placeholder": { color: "var(--muted)" },
  ".cm-content": { fontWeight: "700", padding: "10px 0", caretColor: "var(--ink)" },
  ".cm-gutters": { backgroundColor: "transparent", border: "none", color: "var(--muted)", paddingLeft: "6px" },
  ".cm-content ::selection": { backgroundColor: "color-mix(in oklab, var(--action) 25%, transparent)" },
  ".cm-lit": { backgroundColor: "color-mix(in oklab, var(--action) 22%, transparent)", borderRadius: "3px" },
  ".cm-tooltip": {
    backgroundColor: "var(--paper)",
    color: "var(--ink)",
    border: "1px solid var(--edge)",
    borderRadius: "6px",
    zIndex: "45",
  },
  ".cm-completionInfo": {
    fontFamily: '"Hanken Grotesk Variable", sans-serif',
    padding: "8px 10px !important",
    maxWidth: "300px",
    whiteSpace: "pre-line",
  },
  ".cm-diagnosticAction": {
    font: "inherit",
    color: "var(--on-action)",
    backgroundColor: "var(--action-fill)",
    borderRadius: "4px",
    padding: "3px 8px",
    marginLeft: "0",
    marginTop: "6px",
    display: "inline-block",
  },
  ".cm-tooltip.cm-tooltip-autocomplete > ul": { fontFamily: "inherit" },
  ".cm-tooltip-autocomplete ul li[aria-selected]": { backgroundColor: "var(--action-fill)", color: "var(--on-action)" },
  ".cm-completionDetail": { fontStyle: "normal", marginLeft: "1em", opacity: "0.85" },
  ".cm-diagnostic": { fontFamily: '"Hanken Grotesk Variable", sans-serif', padding: "6px 10px", maxWidth: "420px" },
  ".cm-diagnostic-error": { borderLeft: "4px solid var(--short)" },
  ".cm-diagnostic-warning": { borderLeft: "4px solid var(--low)" },
  ".cm-lintRange-error": {
    backgroundImage: "none",
    textDecoration: "underline wavy 2px var(--short)",
    textUnderlineOffset: "4px",
  },
  ".cm-lintRange-warning": {
    backgroundImage: "none",
    textDecoration: "underline dotted 2px var(--low)",
    textUnderlineOffset: "4px",
  },
});

const setLit = StateEffect.define<{ from: number; to: number } | null>();
const litField = StateField.define<DecorationSet>({
  create: () => Decoration.none,
  update(marks, tr) {
    for (const effect of tr.effects) {
      if (!effect.is(setLit)) continue;
      const at = effect.value;
      const to = at ? Math.min(at.to, tr.newDoc.length) : 0;
      return at && at.from < to
        ? Decoration.set([Decoration.mark({ class: "cm-lit" }).range(at.from, to)])
        : Decoration.none;
    }
    return marks.map(tr.changes);
  },
  provide: (field) => EditorView.decorations.from(field),
});

const MARK_AFTER_MS = 150;

/** A change that came from outside the editor (an undo, another version): not reported back. */
const fromOutside = Annotation.define<boolean>();

const offsetOf = (doc: Text, row: number, column: number) => {
  const line = doc.line(Math.min(Math.max(row, 1), doc.lines));
  return Math.min(line.from + column, line.to);
};

function diagnosticsOf(
  doc: Text,
  problems: readonly Problem[],
  mendsFor: ShorthandEditorProps["mendsFor"],
): Diagnostic[] {
  return problems.flatMap((p) => {
    if (p.row === null || p.row > doc.lines) return [];
    const from = offsetOf(doc, p.row, p.from ?? 0);
    const to = Math.max(offsetOf(doc, p.row, p.to ?? 0), from);
    const actions = mendsFor(p).map(({ say, act }) => ({ name: say, apply: act }));
    return [{ from, to, severity: p.level, message: p.message, actions }];
  });
}

/** What completion says of a word of the notation: its short meaning, and beside the list an example. */
function explained(word: string, { exampleKeys }: ShorthandEditorProps) {
  const construct = constructOf(word);
  if (!construct) return {};
  const example = construct.example(exampleKeys);
  return { detail: construct.title.toLowerCase(), info: `${construct.says}\n\n${example}` };
}

/** Whether the cursor stands in a note, where every sign is only text. */
const isInNote = (state: EditorState) => {
  const { head } = state.selection.main;
  return /[#!]/.test(state.doc.lineAt(head).text.slice(0, head - state.doc.lineAt(head).from));
};

/** Asks for help about the word of the notation at the cursor. */
function help({ state }: EditorView, { onHelp }: ShorthandEditorProps): boolean {
  const at = state.wordAt(state.selection.main.head);
  const word = at ? state.sliceDoc(at.from, at.to) : "";
  onHelp((RESERVED as readonly string[]).includes(word) ? word : "");
  return true;
}

/** The shorthand with colouring, error marks in place and completion of keys with their names. */
export default function ShorthandEditor(props: ShorthandEditorProps) {
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView | null>(null);
  const now = useRef(props);
  useEffect(() => {
    now.current = props;
  });

  useEffect(() => {
    const labelled = new Compartment();
    const complete = (context: CompletionContext) => {
      const word = context.matchBefore(/[\p{L}_][\p{L}0-9_]*$/u);
      if (!word && !context.explicit) return null;
      const { keys, subs, sizes } = now.current;
      return {
        from: word?.from ?? context.pos,
        validFor: /^[\p{L}0-9_]*$/u,
        options: [
          ...keys
            .filter((k) => k.kind !== "stringing")
            .map((k) => ({ label: k.key, detail: k.name.slice(0, 60), type: "variable", boost: 2 })),
          ...subs.map((s) => ({
            label: s.key,
            detail: `${s.name.slice(0, 50)} (sub-assembly)`,
            type: "variable",
            boost: 1,
          })),
          ...RESERVED.map((w) => ({
            label: w,
            type: "keyword",
            ...explained(w, now.current),
            ...(w === "size" && sizes.length > 0 ? { apply: `size{${sizes.map((s) => `${s}: `).join("| ")}}` } : {}),
          })),
        ],
      };
    };
    const editor = new EditorView({
      parent: host.current!,
      state: EditorState.create({
        doc: now.current.text,
        extensions: [
          new LanguageSupport(language),
          syntaxHighlighting(look),
          lineNumbers(),
          bracketMatching(),
          closeBrackets(),
          // Enter always ends the row: what is offered is taken with Tab.
          autocompletion({ override: [complete], icons: false, defaultKeymap: false }),
          litField,
          theme,
          // Over everything that stands below the rows.
          tooltips({ parent: document.body, position: "fixed" }),
          EditorView.lineWrapping,
          placeholder("(3A 2B) x4   ? says how rows are written"),
          labelled.of(EditorView.contentAttributes.of({ "aria-label": now.current.label, spellcheck: "false" })),
          keymap.of([
            ...closeBracketsKeymap,
            { key: "Tab", run: acceptCompletion },
            { key: "F1", run: (v) => help(v, now.current) },
            ...completionKeymap.filter((k) => k.key !== "Enter"),
            ...defaultKeymap,
          ]),
          EditorView.updateListener.of((update) => {
            if (update.docChanged && !update.transactions.some((tr) => tr.annotation(fromOutside)))
              now.current.onChange(update.state.doc.toString());
          }),
          EditorView.domEventHandlers({
            // Undo and redo are the page's, over everything: the editor must not try its own.
            // A question mark stands nowhere in the notation but in notes: elsewhere it asks for help.
            keydown: (e, v) =>
              ((e.ctrlKey || e.metaKey) && /^[zy]$/i.test(e.key)) ||
              (e.key === "?" && !isInNote(v.state) && (e.preventDefault(), help(v, now.current))),
            mousemove: (e, v) => {
              const pos = v.posAtCoords({ x: e.clientX, y: e.clientY });
              const node = pos === null ? null : syntaxTree(v.state).resolveInner(pos, 1);
              const pick = node && (node.name === "Key" || node.name === "Int") ? node.parent : null;
              const key = pick?.getChild("Key");
              now.current.onLight(
                pick && key
                  ? { key: v.state.sliceDoc(key.from, key.to), part: now.current.part, from: pick.from, to: pick.to }
                  : null,
              );
            },
            mouseleave: () => now.current.onLight(null),
          }),
        ],
      }),
    });
    view.current = editor;
    return () => editor.destroy();
  }, []);

  const { text, problems, lit, goTo, part } = props;
  useEffect(() => {
    const editor = view.current!;
    const shown = editor.state.doc.toString();
    if (shown === text) return;
    // Replace only what differs, so that the cursor stays where it was.
    let from = 0;
    while (from < Math.min(shown.length, text.length) && shown[from] === text[from]) from++;
    let end = 0;
    while (
      end < Math.min(shown.length, text.length) - from &&
      shown[shown.length - 1 - end] === text[text.length - 1 - end]
    )
      end++;
    editor.dispatch({
      changes: { from, to: shown.length - end, insert: text.slice(from, text.length - end) },
      annotations: fromOutside.of(true),
    });
  }, [text]);
  const marked = useRef(false);
  useEffect(() => {
    const editor = view.current!;
    if (problems.length === 0 && !marked.current) return;
    // A moment later than the count: a key that is half typed is not marked before the rest of it could follow.
    const timer = setTimeout(() => {
      marked.current = problems.length > 0;
      const found = diagnosticsOf(editor.state.doc, problems, now.current.mendsFor);
      editor.dispatch(setDiagnostics(editor.state, found));
    }, MARK_AFTER_MS);
    return () => clearTimeout(timer);
  }, [problems, text]);
  const wasLit = useRef(false);
  useEffect(() => {
    if (!lit && !wasLit.current) return;
    wasLit.current = lit !== null;
    const at =
      lit && lit.part === part && lit.from !== undefined && lit.to !== undefined
        ? { from: lit.from, to: lit.to }
        : null;
    view.current!.dispatch({ effects: setLit.of(at) });
  }, [lit, part]);
  useEffect(() => {
    const editor = view.current!;
    if (!goTo) return;
    const anchor = offsetOf(editor.state.doc, goTo.row, goTo.from);
    editor.dispatch({
      selection: { anchor, head: Math.max(anchor, offsetOf(editor.state.doc, goTo.row, goTo.to)) },
      scrollIntoView: true,
    });
    editor.focus();
  }, [goTo]);

  const { putIn } = props;
  useEffect(() => {
    const editor = view.current!;
    if (!putIn) return;
    const { from, to } = editor.state.selection.main;
    const { doc } = editor.state;
    // A step stands apart from its neighbours; what is of several rows begins on one of its own.
    const before = from > 0 && /\S/.test(doc.sliceString(from - 1, from)) ? " " : "";
    const after = /\S/.test(doc.sliceString(to, to + 1)) ? " " : "";
    const insert = before + putIn.text + after;
    editor.dispatch({
      changes: { from, to, insert },
      selection: { anchor: from + insert.length - after.length },
      scrollIntoView: true,
    });
    editor.focus();
    now.current.onPutIn();
  }, [putIn]);

  // Its layout stands by itself: a keystroke in it must not lay the whole page out again.
  return <div ref={host} data-testid="shorthand" className="[contain:layout_style]" />;
}
