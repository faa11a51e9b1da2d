import js from "@eslint/js";
import hooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";

export default tseslint.config({ ignores: ["dist", "src/api/schema.d.ts"] }, js.configs.recommended, {
  files: ["src/**/*.ts", "src/**/*.tsx", "vite.config.ts"],
  extends: [...tseslint.configs.strictTypeChecked, hooks.configs.flat["recommended-latest"]],
  languageOptions: { parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname } },
  rules: {
    "@typescript-eslint/restrict-template-expressions": ["error", { allowNumber: true }],
    "max-lines-per-function": ["error", 80],
    "@typescript-eslint/no-confusing-void-expression": ["error", { ignoreArrowShorthand: true }],
  },
});
