declare module "virtual:messages/*" {
  const messages: Record<string, import("@lingui/core").Messages[string]>;
  export default messages;
}
