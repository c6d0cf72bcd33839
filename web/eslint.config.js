import hooks from "eslint-plugin-react-hooks";
import ts from "typescript-eslint";

export default ts.config({ ignores: ["dist", "public", "src/api/gen"] }, ...ts.configs.recommended, {
  files: ["src/**/*.{ts,tsx}"],
  plugins: { "react-hooks": hooks },
  rules: {
    "react-hooks/rules-of-hooks": "error",
    "react-hooks/exhaustive-deps": "error",
    "react-hooks/refs": "error",
    "@typescript-eslint/no-unused-vars": ["error", { varsIgnorePattern: "^_" }],
  },
});
