/** Asking and answering in chat, over the Matrix client-server API. */
@org.jspecify.annotations.NullMarked
package dastur.server.chat;
