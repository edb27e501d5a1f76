/** People, groups and roles (N80). */
@org.jspecify.annotations.NullMarked
package dastur.core.people;
