/** Tickets, their fields, services and configuration items. */
@org.jspecify.annotations.NullMarked
package dastur.core.ticket;
