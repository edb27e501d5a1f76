package dastur.server.http;

/** An answer to what is else only taken: here it is done already, so the status is 200. */
public record Done(Object body) {}
