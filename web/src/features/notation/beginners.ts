/** What a beginner types into the help: each word answered by a line, and the way to where it is done. */
export interface Answer {
  /** What it is found by. */
  words: string;
  title: string;
  says: string;
  to: string;
  /** What the way leads to. */
  go: string;
}

const answer = (words: string, title: string, says: string, to: string, go: string): Answer => ({
  words,
  title,
  says,
  to,
  go,
});

const DESIGN = ["/designs", "To the designs"] as const;
const JARS = ["/jars", "To the jars"] as const;
const HOW = (find: string) => [`/help?find=${encodeURIComponent(find)}`, "How it is written"] as const;

export const ANSWERS: readonly Answer[] = [
  // Making
  answer(
    "pin pins headpin head-pin eyepin eye-pin ball pin",
    "Pins",
    "Add “head pin 50 mm” to the bead key. The part that is threaded on it takes one: choose the loop under Methods, " +
      "and the pin and its order come with it.",
    ...DESIGN,
  ),
  answer(
    "earring earrings ear wire earwire hook fish-hook",
    "Earrings",
    "A part that is made 2 times, with an ear wire in the bead key. Methods: an ear wire, bought or made.",
    ...DESIGN,
  ),
  answer(
    "stud studs post posts nut butterfly back",
    "Ear studs",
    "Add “ear post” and “ear nut” to the bead key; each part takes one of both.",
    ...DESIGN,
  ),
  answer(
    "crimp crimps crimping crimp cover",
    "Crimps",
    "Methods on a part’s ends: a crimp, flat, folded or rounded, and its cover. What it takes is added to the kit.",
    ...DESIGN,
  ),
  answer(
    "elastic stretch stretchy bracelet cord",
    "Elastic and stretch bracelets",
    "Add “0.8 mm stretch cord” to the bead key, string the part on it and choose the surgeon’s knot under Methods: " +
      "the knot’s tails are counted.",
    "/lessons/stretch-bracelet",
    "Do the lesson",
  ),
  answer(
    "knot knots tie tying overhand surgeon",
    "Knots",
    "In the rows “knot 4mm takes 40mm”; at an end a knot is chosen under Methods.",
    ...HOW("knot"),
  ),
  answer(
    "glue cement drying",
    "Glue",
    "Glue is a component that is used up; a method that needs it says so, with its caution and how long it dries.",
    ...DESIGN,
  ),
  answer(
    "clasp clasps lobster toggle magnetic closure fastener",
    "Clasps",
    "Add it to the bead key and link it in with “join”, or let the part take it under what it takes.",
    ...HOW("clasp"),
  ),
  answer(
    "ring rings jump jumpring jump-ring split",
    "Jump rings",
    "Add “jump ring 5 mm”. “Hangs by” on a charm’s line of the key counts one for each that is hung.",
    ...HOW("jump ring"),
  ),
  answer(
    "chain chains link links cut-chain",
    "Chain",
    "Add “3 mm chain”: its links are counted whole, and each cut is told in links.",
    ...HOW("chain"),
  ),
  answer(
    "cord leather suede ribbon lace",
    "Cord and ribbon",
    "Add it to the bead key as stringing and choose it for the part: its length follows from the rows and the tails.",
    ...DESIGN,
  ),
  answer(
    "thread needle stitch stitching weaving beadwork",
    "Thread and stitching",
    "Rows may pass through beads again with >: the thread follows its real path, and its length with it.",
    ...HOW("pass"),
  ),
  answer(
    "wire wrap wrapping gauge wrapped loop",
    "Wire and wrapped loops",
    "Add “20 ga wire”. Methods: simple loop, wrapped loop, coiled drop. Each says how much wire it takes.",
    ...DESIGN,
  ),
  answer(
    "memory wire coil coils bangle",
    "Memory wire",
    "Add “memory wire”, with how long one turn is. Its cut is told in turns; use hard-wire cutters and eye protection.",
    ...DESIGN,
  ),
  answer(
    "charm charms dangle dangles pendant pendants drop drops",
    "Charms and pendants",
    "“hang” hangs it from its place and adds nothing to the length.",
    ...HOW("hang"),
  ),
  answer(
    "tassel tassels fringe fringes",
    "Tassels and fringe",
    "“fringe” goes down, turns and comes back.",
    ...HOW("fringe"),
  ),
  answer(
    "necklace strand strands layered multi",
    "Necklaces of several strands",
    "Say how many strands the part has; “each” gives every strand its own beads.",
    ...HOW("strands"),
  ),
  answer(
    "pair pairs left right mirrored twice",
    "Pairs",
    "The part is made 2 times. What is one-sided is mirrored for the second.",
    ...DESIGN,
  ),
  answer(
    "symmetric symmetrical symmetry middle centre",
    "Symmetry",
    "“mirror” strings the same backwards; “around” puts the middle in once.",
    ...HOW("mirror"),
  ),
  answer(
    "size sizes wrist small medium large fit",
    "Sizes",
    "Under “The whole item” of a design: each size with its length or the wrist it fits. A kit for every size holds " +
      "the most that any needs.",
    ...HOW("size"),
  ),
  answer(
    "length long longer shorter inches measure adjust",
    "Making it longer or shorter",
    "The length in a design’s tally opens ways to another one, the closest first.",
    ...HOW("length"),
  ),
  answer(
    "spacer spacers daisy between",
    "Spacers",
    "“spaced” puts one between all beads; “between” between the repeats.",
    ...HOW("spacer"),
  ),
  answer("repeat pattern again times", "Repeats", "Brackets and x: (2A B) x4.", ...HOW("repeat")),
  answer(
    "mix mixes soup assorted random",
    "A mix of beads",
    "Add “mix” to the bead key and name its members, each with a share or a number.",
    ...DESIGN,
  ),
  answer(
    "seed seeds rocaille delica gram grams weigh-out",
    "Seed beads",
    "Kept in grams, counted one by one: 11/0 has about 115 a gram, which a weighing makes better.",
    ...JARS,
  ),
  answer(
    "note notes comment remark hint",
    "Notes",
    "After # a note for you, after ! one for the maker: it stands on the sheet.",
    ...HOW("note"),
  ),
  answer(
    "undo redo mistake back oops",
    "Undo",
    "Ctrl+Z in a design or box; a move of stock is taken back in the jar’s ledger, by an entry of its own.",
    ...JARS,
  ),
  answer(
    "revision version history earlier old",
    "Earlier revisions",
    "Each save of a design is a revision. A box stays with its own until you take the newer one over.",
    ...DESIGN,
  ),
  answer(
    "instructions sheet pdf tutorial steps",
    "Instructions for the maker",
    "In a box, Lists: the maker’s sheet with rows in words, pictures, tools and cautions, as page and PDF.",
    "/",
    "To the box at hand",
  ),
  answer(
    "difficulty level time minutes duration",
    "Level and time",
    "A design’s tally says how hard it is and how long it takes, and why; trials make it better.",
    ...DESIGN,
  ),
  // Boxes
  answer(
    "box boxes kit kits month subscription",
    "Boxes",
    "A month’s box holds designs, their colourways and how many go out.",
    "/months/new",
    "Plan a month",
  ),
  answer(
    "colour color colours colourway colourways palette shade",
    "Colourways",
    "In a box, Colours: every bead of the designs in a row, every colourway in a column. Choose a jar in each cell.",
    "/",
    "To the box at hand",
  ),
  answer(
    "spare spares extra extras more",
    "Spares",
    "Rules say how much more goes into each bag; a box may say otherwise line by line.",
    "/workshop/spares",
    "To the rules",
  ),
  answer(
    "commit reserve reserved lock",
    "Committing a box",
    "Freezes the bill and reserves what it needs, so that no other box takes it.",
    "/",
    "To the box at hand",
  ),
  answer(
    "pack packing bag bags bench midnight",
    "Packing",
    "In a box, Pack: one bag at a time, on a phone too. What is used is booked as it is packed.",
    "/",
    "To the box at hand",
  ),
  answer(
    "label labels sticker qr barcode code",
    "Labels",
    "Jars prints labels for what is listed, Pack for bags; the code on one opens it on a phone.",
    ...JARS,
  ),
  answer(
    "picklist list lists cutlist pick cut",
    "Pick and cut lists",
    "In a box, Lists and Pack: what to take from which place, and which lengths from which piece.",
    "/",
    "To the box at hand",
  ),
  // Stock
  answer(
    "stock jar jars count counting inventory",
    "Counting a jar",
    "Open the jar and choose Count: by hand, or by weight on the scale.",
    ...JARS,
  ),
  answer(
    "scale weigh weighing weight balance grams",
    "Weighing",
    "A jar’s Count screen reads a scale or takes the grams, and says how sure the number is.",
    ...JARS,
  ),
  answer(
    "stocktake stocktaking yearly inventory walk",
    "Stocktake",
    "A walk past all places, jar by jar; differences are posted at the end.",
    "/stocktakes",
    "To the stocktakes",
  ),
  answer(
    "broken lost found breakage damaged",
    "Broken and lost beads",
    "In the jar: what happened, and how many. While packing it is one tap.",
    ...JARS,
  ),
  answer(
    "place places drawer shelf location",
    "Places",
    "Where jars stand, in the order in which one walks past them. Many jars are moved at once from the list.",
    "/workshop/people",
    "To the places",
  ),
  answer(
    "reorder low running out minimum",
    "Reorder points",
    "Each jar says when to order again; Ahead shows what comes down to it, and when.",
    "/ahead",
    "To what lies ahead",
  ),
  answer(
    "import csv excel spreadsheet table paste",
    "Bringing in a spreadsheet",
    "Save it as CSV; any column order. Every line is looked at before anything is written.",
    "/tables/components",
    "Bring a table in",
  ),
  answer(
    "export download",
    "Taking data out",
    "Tables as CSV, everything as one archive.",
    "/workshop/data",
    "To the data",
  ),
  // Money and buying
  answer(
    "buy buying shopping purchase need shortage",
    "What to buy",
    "Everything the boxes lack, by supplier, in the packs that cost least.",
    "/buy",
    "To buying",
  ),
  answer(
    "order orders delivery receive arrived",
    "Orders and deliveries",
    "Write an order from Buy or by hand; receive it in parts as it comes.",
    "/orders",
    "To the orders",
  ),
  answer(
    "supplier suppliers vendor wholesale",
    "Suppliers",
    "With the days they take. A pack names who sells it; Buy names it for many at once.",
    "/workshop/people",
    "To the suppliers",
  ),
  answer(
    "price prices margin profit sell",
    "Prices",
    "In a box, Money, Price: what a price leaves, or the price for a margin.",
    "/",
    "To the box at hand",
  ),
  answer(
    "cost costs wage labour overhead hourly",
    "What a box costs",
    "Parts, spares, packaging, work, postage and fees, step by step. Wage and overhead stand in the workshop.",
    "/workshop/money",
    "To the money",
  ),
  answer(
    "postage shipping post parcel carrier",
    "Postage",
    "Say where parcels go and by which service; the carrier’s rates go by weight and size.",
    "/workshop/money",
    "To the money",
  ),
  answer(
    "currency euro dollar pound yen",
    "Currency",
    "Can change until something is ordered, received, sold or committed in it.",
    "/workshop",
    "To the workshop",
  ),
  answer(
    "sales sold sale shop returns",
    "Sales",
    "Come in as a table or from the shop; they say how many to make.",
    "/tables/sales",
    "Bring sales in",
  ),
  // The tool itself
  answer(
    "units unit inch inches mm millimetres metric",
    "Inches or millimetres",
    "Chosen under the rooms for this browser; both are read wherever a length is typed.",
    "/workshop",
    "To the workshop",
  ),
  answer(
    "backup save restore lost",
    "Backups",
    "Made and proved every night; an archive takes everything out and brings it back.",
    "/workshop/data",
    "To the backups",
  ),
  answer(
    "phone tablet mobile offline",
    "On a phone",
    "Packing and counting are made for one hand; what is typed without a connection is kept and sent later.",
    "/",
    "To the box at hand",
  ),
  answer(
    "keyboard keys shortcut shortcuts",
    "Keys",
    "/ finds anything, g and a letter goes to a room, ? shows the keys of a screen.",
    "/help",
    "To the help",
  ),
  answer(
    "dark light night theme",
    "Light and dark",
    "The sun or moon beside the units, for this browser.",
    "/workshop",
    "To the workshop",
  ),
  answer(
    "demo example examples learn tutorial lesson start begin",
    "Learning it",
    "Four short lessons, each on a copy of its own.",
    "/help",
    "To the lessons",
  ),
];

/** The answers that a search finds: each of its words begins one of an answer's; none for an empty search. */
export function findAnswers(search: string): readonly Answer[] {
  const words = search
    .toLowerCase()
    .split(/[\s,]+/)
    .filter(Boolean);
  if (words.length === 0) return [];
  return ANSWERS.filter((a) => {
    const all = `${a.words} ${a.title}`.toLowerCase().split(/[\s“”]+/);
    return words.every((word) => all.some((w) => w.startsWith(word)));
  });
}
