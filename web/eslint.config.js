import js from "@eslint/js";
import hooks from "eslint-plugin-react-hooks";
import tseslint from "typescript-eslint";

// Imports only go down this list; what two views share lives in one of the folders above them.
const LAYERS = ["api", "theme", "sound", "words", "picture", "realtime", "parts", "today", "views"];

const layers = LAYERS.map((layer, place) => ({
  files: [`src/${layer}/**`],
  rules: {
    "no-restricted-imports": [
      "error",
      {
        patterns: [
          ...LAYERS.slice(place + 1).map((above) => ({
            regex: `^(\\.\\./)+${above}(/|$)`,
            message: `${layer} must not import ${above}.`,
          })),
          ...(layer === "views"
            ? [{ regex: "^\\.\\./(?!\\.\\./)", message: "A view must not import another view." }]
            : []),
        ],
      },
    ],
  },
}));

export default tseslint.config(
  { ignores: ["dist", "src/api/schema.ts"] },
  js.configs.recommended,
  ...tseslint.configs.strict,
  hooks.configs.flat["recommended"],
  { rules: { "no-undef": "off" } },
  {
    rules: {
      // Asked of a device that starts, they stop the page for good in one browser.
      "no-restricted-properties": [
        "error",
        { property: "getOutputTimestamp" },
        { property: "outputLatency" },
      ],
    },
  },
  ...layers,
);
