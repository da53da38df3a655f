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
  {
    // What is said to people stands in the words.ts of its feature, so that another language needs no other component.
    files: ["src/**/*.tsx"],
    rules: {
      "no-restricted-imports": [
        "error",
        {
          paths: [
            {
              name: "antd",
              importNames: ["Input"],
              message:
                "Take antd/es/input/Input, TextArea or Password: the whole brings one-time codes into every page.",
            },
          ],
        },
      ],
      "no-restricted-syntax": [
        "error",
        {
          selector: "TSAsExpression > TSNeverKeyword",
          message: "`as never` hides every mistake: say what it is.",
        },
        {
          selector:
            "JSXElement:not([openingElement.name.name=/^(kbd|code)$/]) > JSXText[value=/[A-Za-z]{2}/]",
          message: "Put this sentence into the words.ts beside the component.",
        },
        {
          selector:
            "JSXAttribute[name.name=/^(aria-label|title|placeholder|alt|label|okText|cancelText)$/] > Literal[value=/[A-Za-z]{2}/]",
          message: "Put this sentence into the words.ts beside the component.",
        },
        {
          selector:
            "JSXElement > JSXExpressionContainer > TemplateLiteral > TemplateElement[value.raw=/[A-Za-z]{2} /]",
          message: "Make this sentence a function in the words.ts beside the component.",
        },
        {
          selector:
            "JSXElement > JSXExpressionContainer > :matches(ConditionalExpression, LogicalExpression) > Literal[value=/[A-Za-z]{2} /]",
          message: "Put this sentence into the words.ts beside the component.",
        },
      ],
    },
  },
);
