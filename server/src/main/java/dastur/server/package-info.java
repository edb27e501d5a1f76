/** The application: settings, wiring, command line. */
@org.jspecify.annotations.NullMarked
package dastur.server;
