import reactHooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";

export default tseslint.config(
  { ignores: ["dist", "src/api/schema.d.ts"] },
  ...tseslint.configs.recommendedTypeChecked,
  {
    languageOptions: { parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname } },
    plugins: { "react-hooks": reactHooks },
    rules: {
      "react-hooks/rules-of-hooks": "error",
      "react-hooks/exhaustive-deps": "error",
      "max-lines": ["error", 260],
      "max-lines-per-function": ["error", { max: 180, skipBlankLines: true, skipComments: true }],
      // a reader of typed values answers later by contract, whether it has to ask anybody or not
      "@typescript-eslint/require-await": "off",
    },
  },
  { files: ["src/*/texts.ts", "src/**/*.test.ts"], rules: { "max-lines": "off", "max-lines-per-function": "off" } },
);
