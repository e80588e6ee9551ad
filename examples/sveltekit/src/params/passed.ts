import type { ParamMatcher } from "@sveltejs/kit";

export const match: ParamMatcher = (name) => /^(feed\.(atom|json)|robots\.txt|sitemap(-\d+)?\.xml)$/.test(name);
