import { runKeeper } from "./keeper.mjs";

export const run = () => runKeeper("webgpu");
