/**
 * Events out (I17): {@link dastur.server.feed.Events} makes CloudEvents of what happened, {@link dastur.server.feed.Telling} posts them
 * to those who subscribe. Both read the log, and write no ticket.
 */
@org.jspecify.annotations.NullMarked
package dastur.server.feed;
