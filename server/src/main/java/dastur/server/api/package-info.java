/** The routes by subject, and the records they answer with. */
@org.jspecify.annotations.NullMarked
package dastur.server.api;
