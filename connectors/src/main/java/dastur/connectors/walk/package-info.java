/** Walks through the pages of systems that have no interface for programs (N46, M12). */
@org.jspecify.annotations.NullMarked
package dastur.connectors.walk;
