// What is looked for in the pages besides types: hooks, access by keyboard and screen reader, and functions
// and lines that have grown too long to read.
import js from "@eslint/js";
import access from "eslint-plugin-jsx-a11y";
import hooks from "eslint-plugin-react-hooks";
import ts from "typescript-eslint";

export default ts.config(
  { ignores: ["dist", "src/api/schema.d.ts"] },
  js.configs.recommended,
  ...ts.configs.recommended,
  access.flatConfigs.recommended,
  {
    files: ["src/**/*.{ts,tsx}"],
    plugins: { "react-hooks": hooks },
    rules: {
      "react-hooks/rules-of-hooks": "error",
      "react-hooks/exhaustive-deps": "error",
      "max-lines-per-function": ["error", { max: 60, skipBlankLines: true, skipComments: true }],
      "max-len": ["error", { code: 120, ignoreStrings: true, ignoreTemplateLiterals: true, ignoreComments: true }],
      "@typescript-eslint/no-non-null-assertion": "off",
      // Rows of a table of which one is chosen are radios (blocks/RowRadio.tsx), moved among by arrow keys.
      "jsx-a11y/no-noninteractive-element-to-interactive-role": "off",
      // What is opened by a press for something to be typed has the keyboard at once.
      "jsx-a11y/no-autofocus": "off",
      "jsx-a11y/label-has-associated-control": [
        "error",
        { controlComponents: ["TypedField", "Choice", "NativeSelect"], depth: 4 },
      ],
    },
  },
);
