package dastur.standins;

import io.javalin.config.JavalinConfig;
import io.javalin.http.Context;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;

/** A plain page on which a person reads their chat with Dastur and answers, in general or to one message. */
final class ChatPage {
    private final ChatServer chat;

    ChatPage(ChatServer chat) {
        this.chat = chat;
    }

    void routes(JavalinConfig config) {
        config.routes.get("/chat", this::people);
        config.routes.get("/chat/{user}", this::talk);
        config.routes.post("/chat/{user}", ctx -> {
            String marked = ctx.formParam("mark");
            if (marked != null) {
                chat.mark(String.valueOf(ctx.formParam("room")), ctx.pathParam("user"), marked);
            }
            String text = ctx.formParam("text");
            String to = ctx.formParam("to");
            if (text != null && !text.isBlank()) {
                String room = ctx.formParam("room");
                if (room == null) {
                    chat.say(ctx.pathParam("user"), text, to == null || to.isBlank() ? null : to);
                } else {
                    chat.sayIn(room, ctx.pathParam("user"), text, to == null || to.isBlank() ? null : to);
                }
            }
            ctx.redirect(address(ctx.pathParam("user")));
        });
    }

    private static String address(String user) {
        return "/chat/" + URLEncoder.encode(user, StandardCharsets.UTF_8);
    }

    private void people(Context ctx) {
        StringBuilder page = new StringBuilder("<h1>Chat</h1><p><a href='/'>Control page</a></p>");
        if (chat.people().isEmpty()) {
            page.append(
                    "<p>Dastur has talked to nobody yet. It does when somebody who is reached by chat is asked.</p>");
        }
        chat.people().forEach(user -> page.append("<p><a href='")
                .append(address(user))
                .append("'>")
                .append(ControlPage.escape(user))
                .append("</a></p>"));
        ControlPage.html(ctx, "Chat", page);
    }

    private void talk(Context ctx) {
        String user = ctx.pathParam("user");
        StringBuilder page = new StringBuilder("<h1>Chat of " + ControlPage.escape(user)
                + "</h1><p><a href='/chat'>All</a> · <a href='" + address(user) + "'>Look again</a></p>");
        chat.roomsOf(user).forEach(room -> room(page, user, room));
        ControlPage.html(ctx, "Chat", page);
    }

    /** One press makes a ticket of what was said. */
    private static String gesture(String user, ChatServer.Room room, ChatServer.Event e) {
        return "<form method='post' action='" + address(user) + "'><input type='hidden' name='room' value='"
                + ControlPage.escape(room.id()) + "'><input type='hidden' name='mark' value='"
                + ControlPage.escape(e.id()) + "'><button>Make it a ticket</button></form>";
    }

    /** What is written between tildes is shown struck out. */
    private static String struck(String escaped) {
        return escaped.replaceAll("~~(.*?)~~", "<del>$1</del>");
    }

    private void room(StringBuilder page, String user, ChatServer.Room room) {
        page.append("<h2>").append(ControlPage.escape(room.name())).append("</h2>");
        chat.in(room.id()).forEach(e -> page.append("<article><small>")
                .append(ControlPage.escape(e.sender()))
                .append("</small><pre>")
                .append(struck(ControlPage.escape(e.text())))
                .append("</pre>")
                .append(gesture(user, room, e))
                .append("</article>"));
        page.append("<form method='post' action='")
                .append(address(user))
                .append("'><input type='hidden' name='room' value='")
                .append(ControlPage.escape(room.id()))
                .append("'><label>Say <input name='text'></label> <button>Send</button></form>");
    }
}
