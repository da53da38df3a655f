import js from "@eslint/js";
import hooks from "eslint-plugin-react-hooks";
import ts from "typescript-eslint";

export default ts.config(
  {
    ignores: ["dist", "node_modules", "src/api/schema.d.ts", "src/offline/wasm_exec.js", "eslint.config.js"],
  },
  js.configs.recommended,
  ...ts.configs.strict,
  ...ts.configs.recommendedTypeChecked,
  { languageOptions: { parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname } } },
  { ...hooks.configs.flat["recommended-latest"], files: ["src/**/*.{ts,tsx}"] },
  {
    rules: {
      "no-undef": "off",
      "@typescript-eslint/no-non-null-assertion": "off",
      "no-restricted-syntax": [
        "error",
        {
          selector: "TSAsExpression > TSNeverKeyword",
          message: "`as never` hides every mistake: say what it is.",
        },
      ],
    },
  },
);
