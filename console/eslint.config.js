import js from "@eslint/js";
import svelte from "eslint-plugin-svelte";
import globals from "globals";
import ts from "typescript-eslint";

export default ts.config(
  { ignores: ["src/lib/api/schema.d.ts", "node_modules"] },
  js.configs.recommended,
  ...ts.configs.recommended,
  ...svelte.configs["flat/recommended"],
  { languageOptions: { globals: { ...globals.browser, ...globals.node } } },
  { files: ["**/*.ts"], rules: { "no-undef": "off" } },
  {
    files: ["**/*.svelte", "**/*.svelte.ts"],
    languageOptions: { parserOptions: { parser: ts.parser } },
    rules: { "no-undef": "off", "svelte/no-navigation-without-resolve": "off" },
  },
  {
    // Pages and features are put together from `ui/`: one home for how a control looks, is named and is worked by keyboard.
    files: ["src/**/*.svelte"],
    ignores: ["src/ui/**"],
    rules: {
      "svelte/no-restricted-html-elements": [
        "error",
        {
          elements: ["button", "select", "input", "textarea", "table", "dialog", "details", "progress", "svg"],
          message: "Use its component in src/ui.",
        },
      ],
      "no-restricted-imports": ["error", { paths: [{ name: "flowbite-svelte", message: "Wrap it in src/ui." }] }],
    },
  },
);
