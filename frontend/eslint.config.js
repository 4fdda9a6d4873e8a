import js from "@eslint/js";
import hooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";

export default tseslint.config(
  { ignores: ["src/api/schema.d.ts"] },
  js.configs.recommended,
  ...tseslint.configs.strict,
  hooks.configs.flat.recommended,
  {
    rules: {
      // JSX counts every "shown only if": components get a little more room than functions.
      complexity: ["error", 20],
      "no-restricted-syntax": [
        "error",
        {
          selector: "Property[key.name='queryKey'] > ArrayExpression",
          message: "Keys of the query cache come from api/keys.ts.",
        },
        {
          selector: "Property[key.name='maxLength'] > Literal",
          message: "How long a text may be comes from api/lengths.ts, which is made from the API's schema.",
        },
        // What counts as late or as missed is decided by the core alone.
        ...["MemberExpression[property.name", "Identifier[name"].map((named) => ({
          selector: `BinaryExpression[operator=/^[<>]=?$/][right.type!='Literal'] ${named}=/^(entered_ms|threshold(_s|_ms)?|goal(_percent)?)$/]`,
          message:
            "The core says from when on a wait is late (late_from_ms) and whether a level misses its goal (below_goal).",
        })),
      ],
      "max-lines": ["error", 500],
      "@typescript-eslint/no-non-null-assertion": "error",
    },
  },
  {
    // The API is spoken to in one place.
    files: ["src/areas/**", "src/frame/**"],
    rules: { "no-restricted-globals": ["error", "fetch"] },
  },
  {
    // Moments and counts are written in one place, in one way.
    files: ["src/**"],
    ignores: ["src/frame/format.ts"],
    rules: {
      "no-restricted-properties": [
        "error",
        ...["toLocaleString", "toLocaleDateString", "toLocaleTimeString"].map((property) => ({ property })),
        { object: "Intl", property: "DateTimeFormat" },
      ],
    },
  },
);
