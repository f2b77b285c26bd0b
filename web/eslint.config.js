import a11y from "eslint-plugin-jsx-a11y-x";
import hooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";

export default tseslint.config({ ignores: ["node_modules", "src/api/schema.d.ts"] }, ...tseslint.configs.strict, {
    files: ["src/**/*.{ts,tsx}"],
    plugins: { "jsx-a11y-x": a11y, "react-hooks": hooks },
    rules: {
        ...a11y.configs.strict.rules,
        // What is dragged can be moved by buttons too; a dialog with one question begins in its field.
        "jsx-a11y-x/no-noninteractive-element-interactions": [
            "error",
            { handlers: ["onClick", "onMouseDown", "onMouseUp", "onKeyDown"] },
        ],
        "jsx-a11y-x/no-autofocus": ["error", { ignoreNonDOM: true }],
        "jsx-a11y-x/no-interactive-element-to-noninteractive-role": [
            "error",
            { canvas: ["img"], tr: ["none", "presentation"] },
        ],
        "react-hooks/rules-of-hooks": "error",
        "react-hooks/exhaustive-deps": "error",
        "@typescript-eslint/no-non-null-assertion": "off",
    },
});
