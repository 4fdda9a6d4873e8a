/** Makes from the API's schema what pages need of it: the types, and how long texts may be. */
import { writeFileSync } from "node:fs";
import openapiTS, { astToString, COMMENT_HEADER } from "openapi-typescript";

const schema = new URL("../docs/openapi.yaml", import.meta.url);
const lengths = {};
const types = await openapiTS(schema, {
  transform({ maxLength }, { path }) {
    // What may be null, or a number, has its text one level down: "…/anyOf/0".
    const [, name, field] = path.match(/#\/components\/schemas\/(?!Patched)(\w+)\/(\w+)(?:\/anyOf\/\d+)?$/) ?? [];
    if (field && maxLength) (lengths[name.replace(/Request$/, "")] ??= {})[field] ??= maxLength;
  },
});
writeFileSync("src/api/schema.d.ts", COMMENT_HEADER + astToString(types));
writeFileSync(
  "src/api/lengths.ts",
  `/** How many characters a text may have, from the API's schema (\`npm run types\`). */\n` +
    `export const lengths = ${JSON.stringify(lengths, null, 2).replace(/"(\w+)":/g, "$1:")} as const;\n`,
);
