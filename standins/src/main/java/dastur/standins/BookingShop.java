package dastur.standins;

import io.javalin.config.JavalinConfig;
import io.javalin.http.Context;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentSkipListMap;
import java.util.concurrent.atomic.AtomicInteger;

/**
 * The booking site's shop for tickets: pages for people, and no interface for programs. A trial code buys a ticket that is never charged.
 */
public final class BookingShop {
    private static final List<String> PIERS = List.of("Alder Pier", "Gannet Quay", "North Slip");
    private static final List<String> TIMES = List.of("06:55", "09:20", "13:05", "17:40");
    private static final Map<String, String> PRICES = Map.of("Adult", "12.40", "Child", "6.20");

    /** A ticket that was bought. */
    public record Ticket(String number, String sailing, String name, String fare, String price) {}

    private final String trialCode;
    private final Faults faults;
    private final Map<String, Ticket> sold = new ConcurrentSkipListMap<>();
    private final AtomicInteger next = new AtomicInteger(7001);
    private volatile boolean forgetsPrices;

    BookingShop(String trialCode, Faults faults) {
        this.trialCode = trialCode;
        this.faults = faults;
    }

    void routes(JavalinConfig config) {
        config.routes.get("/shop", this::begin);
        config.routes.get("/shop/sailings", this::sailings);
        config.routes.post("/shop/tickets", this::buy);
        config.routes.get("/shop/tickets/{number}", this::ticket);
    }

    private boolean isDown(Context ctx) {
        if (faults.of("shop") == Faults.Fault.NONE) {
            return false;
        }
        page(ctx.status(503), "<h1>We are working on it</h1><p>The shop is closed for a moment.</p>");
        return true;
    }

    private void begin(Context ctx) {
        if (!isDown(ctx)) {
            page(
                    ctx,
                    "<h1>Where to?</h1><form action='/shop/sailings'>" + list("from", "From", PIERS)
                            + list("to", "To", PIERS.reversed())
                            + "<label>Day <input name='day' required></label><button>Show sailings</button></form>");
        }
    }

    private void sailings(Context ctx) {
        if (isDown(ctx)) {
            return;
        }
        String from = given(ctx.queryParam("from"));
        String to = given(ctx.queryParam("to"));
        String day = given(ctx.queryParam("day"));
        page(
                ctx,
                "<h1>Sailings on " + day + "</h1><p>" + from + " to " + to + "</p>"
                        + "<form method='post' action='/shop/tickets'><input type='hidden' name='way' value='" + from
                        + " to "
                        + to + ", " + day + "'>" + list("time", "Sailing", TIMES)
                        + list("fare", "Fare", List.of("Adult", "Child"))
                        + "<label>Name <input name='name' required></label>"
                        + "<label>Trial code <input type='password' name='code'></label>"
                        + "<label class='box'><input type='checkbox' name='terms' value='yes' required>"
                        + " I accept the terms of carriage</label><button>Buy the ticket</button></form>");
    }

    private void buy(Context ctx) {
        if (isDown(ctx)) {
            return;
        }
        String fare = given(ctx.formParam("fare"));
        String price = PRICES.get(fare);
        if (price == null || !trialCode.equals(ctx.formParam("code")) || !"yes".equals(ctx.formParam("terms"))) {
            page(
                    ctx.status(422),
                    "<h1>That did not work</h1><p>Only trial tickets are sold here. <a href='/shop'>Begin again</a>");
            return;
        }
        String number = "KF-" + next.getAndIncrement();
        String sailing = given(ctx.formParam("way")) + ", " + given(ctx.formParam("time"));
        sold.put(
                number,
                new Ticket(number, sailing, given(ctx.formParam("name")), fare, forgetsPrices ? "0.00" : price));
        ctx.redirect("/shop/tickets/" + number);
    }

    private void ticket(Context ctx) {
        Ticket t = sold.get(ctx.pathParam("number"));
        if (t == null) {
            page(ctx.status(404), "<h1>There is no such ticket</h1>");
            return;
        }
        page(
                ctx,
                "<h1>Thank you, " + t.name() + "</h1><dl><dt>Ticket number</dt><dd>" + t.number()
                        + "</dd><dt>Sailing</dt><dd>"
                        + t.sailing() + "</dd><dt>Fare</dt><dd>" + t.fare() + "</dd><dt>Price</dt><dd>" + t.price()
                        + "</dd></dl><p class='note'>A trial ticket. Nothing is charged.</p>");
    }

    /** Clipped and escaped: what somebody typed is shown back. */
    private static String given(String value) {
        String text = value == null ? "" : value.strip();
        return ControlPage.escape(text.substring(0, Math.min(80, text.length())));
    }

    private static String list(String name, String label, List<String> options) {
        StringBuilder list = new StringBuilder("<label>" + label + " <select name='" + name + "'>");
        options.forEach(o -> list.append("<option>").append(o).append("</option>"));
        return list.append("</select></label>").toString();
    }

    private static void page(Context ctx, String body) {
        ctx.html("<!doctype html><html lang='en'><meta charset='utf-8'><title>Kestrel Ferries: tickets</title><style>"
                + "body{font:17px/1.5 serif;max-width:34rem;margin:3rem auto;padding:0 1rem;color:#1c2b36;background:#fbf7ee}"
                + "header{font-variant:small-caps;letter-spacing:.08em;border-bottom:3px double #1c2b36;margin-bottom:1.5rem}"
                + "label{display:block;margin:.7rem 0}label:not(.box) input,select{display:block;font:inherit;width:100%;padding:.3rem}"
                + "button{font:inherit;padding:.4rem 1.4rem;margin-top:1rem;background:#1c2b36;color:#fbf7ee;border:0}"
                + "dt{float:left;clear:left;width:9rem}dd{margin:0 0 .3rem 9rem;font-weight:bold}.note{color:#6a5a2c}</style>"
                + "<header>Kestrel Ferries</header>" + body);
    }

    /** All that were bought, by number. */
    public Map<String, Ticket> sold() {
        return sold;
    }

    /** Whether new receipts lack their price. */
    public boolean forgetsPrices() {
        return forgetsPrices;
    }

    public void forgetPrices(boolean forgets) {
        forgetsPrices = forgets;
    }
}
