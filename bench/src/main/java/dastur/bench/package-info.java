/** Measurements, each beside plain JDBC on the same database in the same run. */
@org.jspecify.annotations.NullMarked
package dastur.bench;
