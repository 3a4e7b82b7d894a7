import js from "@eslint/js";
import { createTypeScriptImportResolver } from "eslint-import-resolver-typescript";
import importX from "eslint-plugin-import-x";
import jsxA11y from "eslint-plugin-jsx-a11y";
import reactHooks from "eslint-plugin-react-hooks";
import { readdirSync } from "node:fs";
import tseslint from "typescript-eslint";

const features = readdirSync("src/features");
/** The floors of the front end: app above features above folio above shared; features know nothing of each other. */
const zones = [
  { target: "./src/shared", from: ["./src/folio", "./src/features", "./src/app"] },
  { target: "./src/folio", from: ["./src/features", "./src/app"] },
  ...features.map((feature) => ({
    target: `./src/features/${feature}`,
    from: ["./src/app", ...features.filter((other) => other !== feature).map((other) => `./src/features/${other}`)],
    message: "What two features need lies in folio/ or shared/.",
  })),
];

export default tseslint.config(
  { ignores: ["dist", "src/shared/api/schema.d.ts"] },
  js.configs.recommended,
  ...tseslint.configs.strict,
  jsxA11y.flatConfigs.recommended,
  {
    plugins: { "react-hooks": reactHooks, "import-x": importX },
    settings: {
      "import-x/resolver-next": [createTypeScriptImportResolver({ project: "tsconfig.json" })],
      // Without these no TypeScript file is followed, and no circle is found.
      "import-x/extensions": [".ts", ".tsx"],
      "import-x/parsers": { "@typescript-eslint/parser": [".ts", ".tsx"] },
    },
    rules: {
      "react-hooks/rules-of-hooks": "error",
      "react-hooks/exhaustive-deps": "error",
      "import-x/no-restricted-paths": ["error", { zones }],
      "import-x/no-cycle": ["error", { allowUnsafeDynamicCyclicDependency: false }],
    },
  },
);
