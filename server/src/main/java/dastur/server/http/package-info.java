/** The boundary: one route table, which registers the handlers and yields the OpenAPI description; problems; limits. */
@org.jspecify.annotations.NullMarked
package dastur.server.http;
