/**
 * Keeps everything in H2 through Hibernate. {@link dastur.store.Database} opens it; the other public classes each hold
 * the reads and writes of one subject. Entities are package-private.
 */
@org.jspecify.annotations.NullMarked
package dastur.store;
