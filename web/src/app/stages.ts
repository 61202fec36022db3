import type { Stage } from "../bench/stages";
import { arrange } from "../stages/arrange/stage";
import { check } from "../stages/check/stage";
import { deliver } from "../stages/deliver/stage";
import { gather } from "../stages/gather/stage";
import { ramp } from "../stages/ramp/stage";
import { reduce } from "../stages/reduce/stage";

/** The stages in the order of the work. A further one is its folder and a word here. */
export const STAGES: readonly Stage[] = [gather, reduce, arrange, ramp, check, deliver];
