import js from "@eslint/js";
import hooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";

// each folder may import from those before it: so no circle can arise, and what lies deep can be read alone
const LAYERS = [
  "api",
  "ui",
  "marks",
  "sounds",
  "map",
  "lenses",
  "phrase",
  "live",
  "bench",
  "lesson",
  "practice",
  "classes",
  "shelf",
  "account",
];
const layered = LAYERS.map((layer, place) => ({
  files: [`src/${layer}/**/*.ts`, `src/${layer}/**/*.tsx`],
  rules: {
    "no-restricted-imports": [
      "error",
      {
        patterns: LAYERS.slice(place + 1).map((above) => ({
          regex: `^(\\.\\./)+${above}/`,
          message: `“${layer}” lies beneath “${above}”.`,
        })),
      },
    ],
  },
}));

export default tseslint.config(
  { ignores: ["dist", "src/api/schema.d.ts"] },
  js.configs.recommended,
  {
    files: ["src/**/*.ts", "src/**/*.tsx", "vite.config.ts"],
    extends: [...tseslint.configs.strictTypeChecked, hooks.configs.flat["recommended-latest"]],
    languageOptions: { parserOptions: { projectService: true, tsconfigRootDir: import.meta.dirname } },
    rules: {
      "@typescript-eslint/restrict-template-expressions": ["error", { allowNumber: true }],
      "max-lines": ["error", 300],
      "max-lines-per-function": ["error", 60],
      "@typescript-eslint/no-confusing-void-expression": ["error", { ignoreArrowShorthand: true }],
    },
  },
  ...layered,
);
