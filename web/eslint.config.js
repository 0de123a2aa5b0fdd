import prettier from "eslint-config-prettier";
import vue from "eslint-plugin-vue";
import ts from "typescript-eslint";

/** How wide a line may be; what only a string makes longer is left as it is. */
const WIDTH = 110;

export default ts.config(
  { ignores: ["dist", "src/shell/api/*.schema.d.ts"] },
  ...ts.configs.strictTypeChecked,
  ...vue.configs["flat/recommended"],
  prettier,
  {
    files: ["**/*.vue"],
    languageOptions: { parserOptions: { parser: ts.parser } },
  },
  {
    languageOptions: {
      parserOptions: { project: true, tsconfigRootDir: import.meta.dirname, extraFileExtensions: [".vue"] },
    },
  },
  {
    rules: {
      "vue/attributes-order": "off",
      "vue/require-default-prop": "off",
      "vue/max-len": [
        "error",
        {
          code: WIDTH,
          template: WIDTH,
          comments: WIDTH,
          ignoreStrings: true,
          ignoreTemplateLiterals: true,
          ignoreRegExpLiterals: true,
          ignoreUrls: true,
          ignoreHTMLAttributeValues: true,
          ignoreHTMLTextContents: true,
        },
      ],
      "@typescript-eslint/restrict-template-expressions": ["error", { allowNumber: true }],
      "@typescript-eslint/no-confusing-void-expression": ["error", { ignoreArrowShorthand: true }],
      "no-restricted-syntax": [
        "error",
        {
          selector: "Property[key.name='queryKey'] > ArrayExpression",
          message: "What is kept of the server's answers is named in src/shell/queryKeys.ts.",
        },
      ],
      "no-undef": "off",
    },
  },
  {
    // What comes from another component this linter cannot see the type of; vue-tsc can, and checks it.
    files: ["**/*.vue", "src/main.ts"],
    rules: Object.fromEntries(
      ["assignment", "member-access", "call", "return", "argument"].map((what) => [
        `@typescript-eslint/no-unsafe-${what}`,
        "off",
      ]),
    ),
  },
  {
    // What stands in for the browser in a test is async, as the browser is.
    files: ["**/*.test.ts"],
    rules: { "@typescript-eslint/require-await": "off", "@typescript-eslint/no-unsafe-return": "off" },
  },
  { files: ["*.config.js"], ...ts.configs.disableTypeChecked },
  // Each component's script makes a checker of types of its own, which takes three quarters of the time: ./test --all has it.
  ...(process.env.FT_TEST_ALL
    ? []
    : [
        {
          files: ["**/*.vue"],
          ...ts.configs.disableTypeChecked,
          languageOptions: { parserOptions: { parser: ts.parser, project: null, program: null } },
        },
      ]),
);
