// Scripts are held to what finds mistakes; how they look is theirs.
import js from "@eslint/js";
import globals from "globals";

const checked = {
  ...js.configs.recommended.rules,
  eqeqeq: "error",
  "no-shadow": "error",
  "no-var": "error",
  "prefer-const": "error",
  "no-implicit-globals": "off",
  "no-unused-vars": ["error", { argsIgnorePattern: "^_", caughtErrors: "none" }],
  "consistent-return": "off",
};

export default [
  { ignores: ["node_modules/", "var/", "src/nivelum/static/nivelum/field.js", "src/nivelum/away/worker.js"] },
  {
    files: ["src/nivelum/scripts/*.js"],
    languageOptions: { ecmaVersion: 2024, sourceType: "module", globals: { ...globals.browser, htmx: "readonly", foretell: "readonly", wake: "readonly" } },
    rules: checked,
  },
  {
    files: ["src/nivelum/static/nivelum/*.js"],
    languageOptions: { ecmaVersion: 2024, sourceType: "script", globals: { ...globals.browser, htmx: "readonly" } },
    rules: checked,
  },
  { files: ["tests/scripts/*.mjs"], languageOptions: { ecmaVersion: 2024, sourceType: "module", globals: globals.node }, rules: checked },
];
