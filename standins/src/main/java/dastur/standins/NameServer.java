package dastur.standins;

import java.io.DataInputStream;
import java.io.DataOutputStream;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Base64;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.stream.Collectors;
import org.xbill.DNS.DClass;
import org.xbill.DNS.Flags;
import org.xbill.DNS.Message;
import org.xbill.DNS.Name;
import org.xbill.DNS.Opcode;
import org.xbill.DNS.Rcode;
import org.xbill.DNS.Record;
import org.xbill.DNS.Section;
import org.xbill.DNS.TSIG;
import org.xbill.DNS.TSIGRecord;
import org.xbill.DNS.TextParseException;
import org.xbill.DNS.Type;

/**
 * The name server of the company's zone, over TCP: answers queries, and takes updates (RFC 2136) that are signed with its key
 * (RFC 8945).
 */
public final class NameServer implements AutoCloseable {
    private static final String ZONE = "kestrel.example.";
    private static final int TIMEOUT_MILLIS = 5_000;

    private final Faults faults;
    private final TSIG key;
    private final ServerSocket socket;
    private final ExecutorService threads = Executors.newVirtualThreadPerTaskExecutor();
    private final List<Record> records = new ArrayList<>();

    NameServer(int port, String token, Faults faults) {
        this.faults = faults;
        try {
            key = new TSIG(TSIG.HMAC_SHA256, "dastur.", Base64.getEncoder().encodeToString(bytes(token)));
            socket = new ServerSocket(port, 50, InetAddress.getLoopbackAddress());
            put("www", "10.30.4.10");
            put("wifi", "10.30.9.1");
            put("gates", "10.30.2.5");
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        threads.submit(this::listen);
    }

    private static byte[] bytes(String token) {
        return token.getBytes(StandardCharsets.UTF_8);
    }

    /** What a secret for its key looks like. */
    public static String secret(String token) {
        return "dastur.:" + Base64.getEncoder().encodeToString(bytes(token));
    }

    public String address() {
        return "dns://127.0.0.1:" + socket.getLocalPort();
    }

    private synchronized void put(String host, String address) throws IOException {
        Name name = Name.fromString(host + "." + ZONE);
        records.removeIf(r -> r.getName().equals(name) && r.getType() == Type.A);
        records.add(Record.fromString(name, Type.A, DClass.IN, 60, address, Name.root));
    }

    /** Every name with its address. */
    public synchronized Map<String, String> names() {
        return records.stream()
                .collect(Collectors.toMap(
                        r -> r.getName().toString(true), Record::rdataToString, (a, b) -> a + ", " + b, TreeMap::new));
    }

    private void listen() {
        while (!socket.isClosed()) {
            try {
                Socket connection = socket.accept();
                threads.submit(() -> serve(connection));
            } catch (IOException e) {
                // Closed, or a client that went away.
            }
        }
    }

    private void serve(Socket connection) {
        try (connection) {
            connection.setSoTimeout(TIMEOUT_MILLIS);
            DataInputStream in = new DataInputStream(connection.getInputStream());
            DataOutputStream out = new DataOutputStream(connection.getOutputStream());
            while (true) {
                byte[] bytes = in.readNBytes(in.readUnsignedShort());
                Faults.Fault fault = faults.of("dns");
                if (fault == Faults.Fault.DOWN) {
                    return;
                }
                Message response = answer(bytes, fault);
                if (fault == Faults.Fault.LOSES_ANSWERS) {
                    return;
                }
                byte[] said = response.toWire(Message.MAXLENGTH);
                out.writeShort(said.length);
                out.write(said);
                out.flush();
            }
        } catch (IOException e) {
            // The client has what it wanted.
        }
    }

    private synchronized Message answer(byte[] bytes, Faults.Fault fault) throws IOException {
        Message request = new Message(bytes);
        Message response = new Message(request.getHeader().getID());
        response.getHeader().setFlag(Flags.QR);
        response.getHeader().setOpcode(request.getHeader().getOpcode());
        Record question = request.getQuestion();
        response.addRecord(question, Section.QUESTION);
        boolean isUpdate = request.getHeader().getOpcode() == Opcode.UPDATE;
        TSIGRecord signature = request.getTSIG();
        boolean signed = signature != null && key.verify(request, bytes, null) == Rcode.NOERROR;
        if (isUpdate && !signed || isUpdate && fault == Faults.Fault.REFUSES) {
            response.getHeader().setRcode(Rcode.REFUSED);
        } else if (isUpdate) {
            update(request, response);
        } else {
            List<Record> found = records.stream()
                    .filter(r -> r.getName().equals(question.getName()) && r.getType() == question.getType())
                    .toList();
            found.forEach(r -> response.addRecord(r, Section.ANSWER));
            if (records.stream().noneMatch(r -> r.getName().equals(question.getName()))) {
                response.getHeader().setRcode(Rcode.NXDOMAIN);
            }
        }
        if (signed) {
            response.setTSIG(key, Rcode.NOERROR, signature);
        }
        return response;
    }

    private void update(Message request, Message response) throws TextParseException {
        Name zone = Name.fromString(ZONE);
        for (Record r : request.getSection(Section.UPDATE)) {
            if (!r.getName().subdomain(zone)) {
                response.getHeader().setRcode(Rcode.NOTZONE);
                return;
            }
        }
        for (Record r : request.getSection(Section.UPDATE)) {
            if (r.getDClass() == DClass.ANY) {
                records.removeIf(old -> old.getName().equals(r.getName()) && old.getType() == r.getType());
            } else if (r.getDClass() == DClass.IN) {
                records.add(r);
            }
        }
    }

    @Override
    public void close() {
        try {
            socket.close();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        threads.shutdownNow();
    }
}
