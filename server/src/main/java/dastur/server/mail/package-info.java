/** What people answer to mails. */
@org.jspecify.annotations.NullMarked
package dastur.server.mail;
