/** What keeps cases moving: the one way of a command, the workers behind the outbox and the alarms, live news. */
@org.jspecify.annotations.NullMarked
package dastur.server.work;
