import stylistic from "@stylistic/eslint-plugin";
import hooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";

/** One way only: web → core ← server; a feature, and a folder of the core, is reached by its index. */
const only = (patterns) => ({ "no-restricted-imports": ["error", { patterns }] });
const insides = {
  regex: "^\\.\\./[a-z]+/(?!index\\.ts$)[^/]+\\.ts$",
  message: "Reach another folder of the core by its index.",
};

export default tseslint.config(
  { ignores: ["**/dist/", "**/node_modules/", "core/src/shorthand/parser*.ts", ".data/", "test-results/"] },
  ...tseslint.configs.recommended,
  {
    plugins: { "@stylistic": stylistic },
    rules: {
      // Prettier breaks code at 120; this holds comments and what stands in quotes to it too.
      "@stylistic/max-len": ["error", { code: 120, ignoreUrls: true }],
      "@typescript-eslint/no-unused-vars": ["error", { argsIgnorePattern: "^_", varsIgnorePattern: "^_" }],
      "no-console": "off",
      eqeqeq: ["error", "always", { null: "ignore" }],
    },
  },
  {
    files: ["core/src/**/*.ts"],
    rules: {
      ...only([
        {
          group: ["node:*", "react", "pg", "express", "@jar-count/*"],
          message: "The core has no interface, no I/O and no Node.",
        },
        insides,
      ]),
      "no-restricted-globals": ["error", "window", "document", "process", "fetch", "setTimeout", "localStorage"],
      "no-restricted-properties": [
        "error",
        { object: "Math", property: "random", message: "No unseeded randomness in the core." },
        { object: "Date", property: "now", message: "No clock in the core." },
      ],
    },
  },
  {
    files: ["web/src/**/*.{ts,tsx}"],
    plugins: { "react-hooks": hooks },
    rules: {
      "react-hooks/rules-of-hooks": "error",
      "react-hooks/exhaustive-deps": "error",
    },
  },
  // Which folder may import which is held by scripts/arrows.mjs; here, that another one's insides stay inside.
  {
    files: ["web/src/features/**"],
    rules: { ...only([{ regex: "^\\.\\./[a-z]+/(?!index\\.ts$).+", message: "Reach another feature by its index." }]) },
  },
  {
    files: ["web/src/{app,draft,ui,api,workers}/**"],
    rules: {
      ...only([{ regex: "(features/[a-z]+|draft|settings)/(?!index\\.ts)", message: "Reach a feature by its index." }]),
    },
  },
);
