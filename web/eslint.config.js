import prettier from "eslint-config-prettier";
import vue from "eslint-plugin-vue";
import ts from "typescript-eslint";

/** How wide a line may be; what only a string makes longer is left as it is. */
const WIDTH = 110;

export default ts.config(
  { ignores: ["dist", "src/shell/api/*.schema.d.ts"] },
  ...ts.configs.recommended,
  ...vue.configs["flat/recommended"],
  prettier,
  {
    files: ["**/*.vue"],
    languageOptions: { parserOptions: { parser: ts.parser } },
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
      "no-undef": "off",
    },
  },
);
