/** Rehearsals: runs in memory under a virtual clock, with the engine that decides real ones (N25). */
@org.jspecify.annotations.NullMarked
package dastur.core.rehearsal;
