/** What machines do, beside the record of tickets: actions tried from their page, and what calls say while they go on. */
@org.jspecify.annotations.NullMarked
package dastur.server.machines;
