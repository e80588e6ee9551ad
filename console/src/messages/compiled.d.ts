declare module "virtual:messages/*" {
  const messages: Record<string, import("@lingui/core").Messages[string]>;
  export default messages;
}
declare module "virtual:messages/translated" {
  type Words = typeof import("virtual:messages/en");
  const parts: Record<string, (() => Promise<Words>) | undefined>;
  export default parts;
}
