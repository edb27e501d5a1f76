/** JSON as the record needs it: one mapping, and the canonical text that is sealed. */
@org.jspecify.annotations.NullMarked
package dastur.core.json;
