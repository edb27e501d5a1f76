/** What reaches out: HTTP and mail. Connectors try once, within limits, and say what is known of the outcome (D13). */
@org.jspecify.annotations.NullMarked
package dastur.connectors;
