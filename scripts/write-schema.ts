// `npm run schema`: writes the JSON Schema of wire profiles from the code that checks them.
import { writeFileSync } from "node:fs";
import { profileJsonSchema } from "@/core/wire/profile-schema";

writeFileSync("docs/wire-profile.schema.json", `${JSON.stringify(profileJsonSchema(), undefined, 2)}\n`);
