/** Who is calling, and what they may do: passwords, sign-ins, tokens, rights. Deny by default (N80). */
@org.jspecify.annotations.NullMarked
package dastur.server.auth;
