package dastur.connectors;

import static org.assertj.core.api.Assertions.assertThat;

import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpServer;
import com.sun.net.httpserver.HttpsConfigurator;
import com.sun.net.httpserver.HttpsParameters;
import com.sun.net.httpserver.HttpsServer;
import dastur.core.run.Event;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.workflow.Connection;
import dastur.core.workflow.SignIn;
import java.io.IOException;
import java.io.OutputStream;
import java.math.BigInteger;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.KeyPair;
import java.security.KeyPairGenerator;
import java.security.KeyStore;
import java.security.cert.Certificate;
import java.security.cert.X509Certificate;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Base64;
import java.util.Collections;
import java.util.Date;
import java.util.List;
import java.util.Map;
import java.util.concurrent.Executors;
import java.util.concurrent.atomic.AtomicInteger;
import javax.net.ssl.KeyManagerFactory;
import javax.net.ssl.SSLContext;
import javax.net.ssl.SSLParameters;
import javax.net.ssl.SSLPeerUnverifiedException;
import javax.net.ssl.TrustManagerFactory;
import org.bouncycastle.asn1.x500.X500Name;
import org.bouncycastle.asn1.x509.Extension;
import org.bouncycastle.asn1.x509.GeneralName;
import org.bouncycastle.asn1.x509.GeneralNames;
import org.bouncycastle.cert.jcajce.JcaX509CertificateConverter;
import org.bouncycastle.cert.jcajce.JcaX509v3CertificateBuilder;
import org.bouncycastle.operator.jcajce.JcaContentSignerBuilder;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** All ways to sign in over HTTP (M6), what is sent by each, and that no secret and no token ever comes back. */
class SigningInTest {
    private static final String SECRET = "top secret:ü/+";

    @TempDir
    Path folder;

    private final HttpConnector connector = new HttpConnector();
    private final List<String> signedIn = Collections.synchronizedList(new ArrayList<>());
    private final List<String> tokenAsked = Collections.synchronizedList(new ArrayList<>());
    private final AtomicInteger tokens = new AtomicInteger();
    private volatile String token = "token-";
    private volatile int seconds = 3_600;
    private HttpServer server;

    @BeforeEach
    void start() throws IOException {
        server = HttpServer.create(new InetSocketAddress("127.0.0.1", 0), 0);
        server.setExecutor(Executors.newVirtualThreadPerTaskExecutor());
        server.createContext("/", e -> {
            String said = String.valueOf(e.getRequestHeaders().getFirst("Authorization"));
            signedIn.add(said);
            // It tells what it was told: nothing of that may come back.
            send(e, said.endsWith("revoked") ? 401 : 200, "{\"echo\":\"" + said + "\"}");
        });
        server.createContext("/token", e -> {
            tokenAsked.add(e.getRequestHeaders().getFirst("Authorization") + " "
                    + new String(e.getRequestBody().readAllBytes(), StandardCharsets.UTF_8));
            send(
                    e,
                    200,
                    "{\"access_token\":\"" + token + tokens.incrementAndGet()
                            + "\",\"token_type\":\"Bearer\",\"expires_in\":" + seconds + "}");
        });
        server.start();
    }

    @AfterEach
    void stop() {
        server.stop(0);
    }

    private static void send(HttpExchange e, int status, String body) throws IOException {
        byte[] bytes = body.getBytes(StandardCharsets.UTF_8);
        e.sendResponseHeaders(status, bytes.length);
        try (OutputStream out = e.getResponseBody()) {
            out.write(bytes);
        }
    }

    private String base() {
        return "http://127.0.0.1:" + server.getAddress().getPort();
    }

    private CallOutcome call(String base, String method, SignIn how, String secret) throws Connector.Abandoned {
        return connector.call(
                new Event.Call("c", method, "/lanes", Map.of(), null, null, List.of(), List.of(), 10),
                new Connection("c", "C", base, List.of(), "s", how),
                secret,
                () -> true);
    }

    private static String base64(String text) {
        return Base64.getEncoder().encodeToString(text.getBytes(StandardCharsets.UTF_8));
    }

    @Test
    void aPasswordGoesWithItsNameAndNeitherComesBack() throws Exception {
        CallOutcome outcome = call(base(), "GET", new SignIn.Basic("dastur"), SECRET);
        assertThat(signedIn).containsExactly("Basic " + base64("dastur:" + SECRET));
        assertThat(((CallOutcome.Done) outcome).log())
                .contains("→ 200", "•••")
                .doesNotContain(SECRET, base64("dastur:" + SECRET));
    }

    @Test
    void aHeaderOfItsOwnTakesThePlaceOfTheUsualOne() throws Exception {
        server.createContext("/lanes", e -> {
            signedIn.add(e.getRequestHeaders().getFirst("X-Key") + " "
                    + e.getRequestHeaders().getFirst("Authorization"));
            send(e, 200, "{}");
        });
        call(base(), "GET", new SignIn.Header("X-Key"), "abc");
        assertThat(signedIn).containsExactly("abc null");
    }

    private SignIn.ClientCredentials client() {
        return new SignIn.ClientCredentials(base() + "/token", "dast:ur", "lanes.read lanes.write");
    }

    @Test
    void aTokenIsFetchedOnceAndHoldsUntilItIsOver() throws Exception {
        for (int i = 0; i < 3; i++) {
            assertThat(((CallOutcome.Done) call(base(), "POST", client(), SECRET)).log())
                    .doesNotContain("token-1", SECRET);
        }
        assertThat(signedIn).containsOnly("Bearer token-1").hasSize(3);
        assertThat(tokenAsked)
                .containsExactly("Basic " + base64("dast%3Aur:top+secret%3A%C3%BC%2F%2B")
                        + " grant_type=client_credentials&scope=lanes.read+lanes.write");
        call(base(), "GET", client(), "another secret");
        assertThat(signedIn.getLast())
                .as("a new secret gets a token of its own")
                .isEqualTo("Bearer token-2");
    }

    @Test
    void oneThatIsAboutToBeOverIsNotUsed() throws Exception {
        seconds = 5;
        call(base(), "GET", client(), SECRET);
        call(base(), "GET", client(), SECRET);
        assertThat(signedIn).containsExactly("Bearer token-1", "Bearer token-2");
    }

    /** 401 says that nothing was done, so that what changes something is sent once more as well, and once only. */
    @Test
    void oneThatIsKnownNoLongerIsFetchedAnewOnce() throws Exception {
        assertThat(call(base(), "POST", client(), SECRET)).isInstanceOf(CallOutcome.Done.class);
        AtomicInteger refused = new AtomicInteger();
        server.createContext("/lanes", e -> {
            boolean old = e.getRequestHeaders().getFirst("Authorization").endsWith("token-1");
            refused.addAndGet(old ? 1 : 0);
            send(e, old ? 401 : 200, "{}");
        });
        assertThat(call(base(), "POST", client(), SECRET)).isInstanceOf(CallOutcome.Done.class);
        assertThat(refused.get()).isOne();
        server.removeContext("/lanes");
        server.createContext("/lanes", e -> {
            refused.incrementAndGet();
            send(e, 401, "{}");
        });
        refused.set(0);
        assertThat(call(base(), "POST", client(), SECRET)).isInstanceOf(CallOutcome.Failed.class);
        assertThat(refused.get()).as("never again and again").isEqualTo(2);
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', quoteCharacter = '`', textBlock = """
            400 | {"error":"invalid_client"}                          | it answered 400
            200 | no JSON                                             | the answer is no JSON
            200 | {}                                                  | no bearer token
            200 | {"access_token":"a b"}                              | no bearer token
            200 | {"access_token":"abc","token_type":"mac"}           | no bearer token
            """)
    void withoutATokenNothingIsSent(int status, String said, String why) throws Exception {
        server.removeContext("/token");
        server.createContext("/token", e -> send(e, status, said));
        CallOutcome outcome = call(base(), "POST", client(), SECRET);
        assertThat(outcome).isInstanceOf(CallOutcome.Failed.class);
        assertThat(((CallOutcome.Failed) outcome).why())
                .startsWith("Nothing was sent:")
                .contains(why);
        assertThat(signedIn).isEmpty();
    }

    @Test
    void whereNoTokensAreGivenItIsAsIfNobodyWereThereAndNoOtherHostIsTold() throws Exception {
        int port = dastur.core.FreePort.any();
        String away = "http://127.0.0.1:" + port + "/token";
        SignIn elsewhere = new SignIn.ClientCredentials(away, "c", null);
        CallOutcome notAllowed = call(base(), "POST", elsewhere, SECRET);
        assertThat(notAllowed).isInstanceOf(CallOutcome.Fault.class);
        CallOutcome away2 = connector.call(
                new Event.Call("c", "POST", "/lanes", Map.of(), null, null, List.of(), List.of(), 10),
                new Connection("c", "C", base(), List.of("127.0.0.1:" + port), "s", elsewhere),
                SECRET,
                () -> true);
        assertThat(away2).isInstanceOfSatisfying(CallOutcome.Failed.class, f -> assertThat(f.unreached())
                .isTrue());
        assertThat(signedIn).isEmpty();
    }

    // --- certificates

    private record Own(KeyPair keys, X509Certificate certificate) {
        String pem() {
            return pem("PRIVATE KEY", keys.getPrivate().getEncoded()) + pem("CERTIFICATE", encoded(certificate));
        }

        private static byte[] encoded(Certificate certificate) {
            try {
                return certificate.getEncoded();
            } catch (java.security.cert.CertificateEncodingException e) {
                throw new IllegalStateException(e);
            }
        }

        private static String pem(String what, byte[] der) {
            return "-----BEGIN " + what + "-----\n"
                    + Base64.getMimeEncoder(64, new byte[] {'\n'}).encodeToString(der) + "\n-----END " + what
                    + "-----\n";
        }
    }

    private static Own own(String name) throws Exception {
        KeyPairGenerator generator = KeyPairGenerator.getInstance("EC");
        generator.initialize(256);
        KeyPair keys = generator.generateKeyPair();
        X500Name who = new X500Name("CN=" + name);
        Instant now = Instant.now();
        JcaX509v3CertificateBuilder builder = new JcaX509v3CertificateBuilder(
                who,
                BigInteger.valueOf(name.hashCode()).abs().add(BigInteger.ONE),
                Date.from(now.minusSeconds(3_600)),
                Date.from(now.plusSeconds(86_400)),
                who,
                keys.getPublic());
        builder.addExtension(
                Extension.subjectAlternativeName,
                false,
                new GeneralNames(new GeneralName(GeneralName.iPAddress, "127.0.0.1")));
        return new Own(
                keys,
                new JcaX509CertificateConverter()
                        .getCertificate(builder.build(
                                new JcaContentSignerBuilder("SHA256withECDSA").build(keys.getPrivate()))));
    }

    private static KeyStore trusting(X509Certificate certificate) throws Exception {
        KeyStore store = KeyStore.getInstance("PKCS12");
        store.load(null, null);
        store.setCertificateEntry("known", certificate);
        return store;
    }

    /** A server that lets in nobody but who shows the certificate it knows. */
    private HttpsServer guarded(Own server, Own known) throws Exception {
        KeyStore own = KeyStore.getInstance("PKCS12");
        own.load(null, null);
        own.setKeyEntry("own", server.keys().getPrivate(), new char[0], new Certificate[] {server.certificate()});
        KeyManagerFactory keys = KeyManagerFactory.getInstance(KeyManagerFactory.getDefaultAlgorithm());
        keys.init(own, new char[0]);
        TrustManagerFactory trust = TrustManagerFactory.getInstance(TrustManagerFactory.getDefaultAlgorithm());
        trust.init(trusting(known.certificate()));
        SSLContext context = SSLContext.getInstance("TLS");
        context.init(keys.getKeyManagers(), trust.getTrustManagers(), null);
        HttpsServer https = HttpsServer.create(new InetSocketAddress("127.0.0.1", 0), 0);
        https.setHttpsConfigurator(new HttpsConfigurator(context) {
            @Override
            public void configure(HttpsParameters parameters) {
                SSLParameters needed = getSSLContext().getDefaultSSLParameters();
                needed.setNeedClientAuth(true);
                parameters.setSSLParameters(needed);
            }
        });
        https.setExecutor(Executors.newVirtualThreadPerTaskExecutor());
        https.createContext("/", e -> {
            try {
                signedIn.add(((com.sun.net.httpserver.HttpsExchange) e)
                        .getSSLSession()
                        .getPeerPrincipal()
                        .getName());
            } catch (SSLPeerUnverifiedException unknown) {
                signedIn.add("nobody");
            }
            send(e, 200, "{}");
        });
        https.start();
        return https;
    }

    @Test
    void aCertificateIsShownInTheHandshakeAndNobodyElseIsLetIn() throws Exception {
        Own there = own("lanes");
        Own dastur = own("dastur");
        Own other = own("other");
        Path trusted = folder.resolve("trusted.p12");
        try (OutputStream out = Files.newOutputStream(trusted)) {
            trusting(there.certificate()).store(out, "changeit".toCharArray());
        }
        HttpsServer https = guarded(there, dastur);
        String base = "https://127.0.0.1:" + https.getAddress().getPort();
        String before = System.getProperty("javax.net.ssl.trustStore");
        System.setProperty("javax.net.ssl.trustStore", trusted.toString());
        System.setProperty("javax.net.ssl.trustStorePassword", "changeit");
        try {
            assertThat(call(base, "GET", new SignIn.Certificate(), dastur.pem()))
                    .isInstanceOf(CallOutcome.Done.class);
            assertThat(call(base, "POST", new SignIn.Certificate(), dastur.pem()))
                    .isInstanceOf(CallOutcome.Done.class);
            assertThat(signedIn).containsExactly("CN=dastur", "CN=dastur");
            assertThat(call(base, "GET", new SignIn.Certificate(), other.pem()))
                    .isNotInstanceOf(CallOutcome.Done.class);
            assertThat(call(base, "GET", new SignIn.Certificate(), "no key"))
                    .isInstanceOfSatisfying(CallOutcome.Fault.class, f -> {
                        assertThat(f.sent()).isFalse();
                        assertThat(f.why())
                                .contains("private key with its certificates")
                                .doesNotContain("no key\"");
                    });
            assertThat(signedIn).hasSize(2);
            https.createContext("/lanes", e -> {
                e.getResponseHeaders().set("Location", base() + "/lanes");
                e.sendResponseHeaders(302, -1);
                e.close();
            });
            CallOutcome down = connector.call(
                    new Event.Call("c", "GET", "/lanes", Map.of(), null, null, List.of(), List.of(), 10),
                    new Connection(
                            "c",
                            "C",
                            base,
                            List.of("127.0.0.1:" + server.getAddress().getPort()),
                            "s",
                            new SignIn.Certificate()),
                    dastur.pem(),
                    () -> true);
            assertThat(down.toString()).contains("this leads to http://");
            assertThat(signedIn).hasSize(2);
        } finally {
            System.clearProperty("javax.net.ssl.trustStorePassword");
            if (before == null) {
                System.clearProperty("javax.net.ssl.trustStore");
            } else {
                System.setProperty("javax.net.ssl.trustStore", before);
            }
            https.stop(0);
        }
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', nullValues = "-", textBlock = """
            a:b  | -                       | signIn.user
            -    | https://ok.example/t    | signIn.user
            ok   | ftp://no.example        | signIn.tokenAddress
            ok   | no address              | signIn.tokenAddress
            """)
    void whatCannotBeUsedIsSaidAtItsPlace(String user, String address, String where) {
        SignIn how = address != null && "ok".equals(user)
                ? new SignIn.ClientCredentials(address, "c", null)
                : new SignIn.Basic(user == null ? "" : user);
        assertThat(how.problem().orElseThrow().where()).isEqualTo(where);
        assertThat(new SignIn.Header("X Key").problem().orElseThrow().where()).isEqualTo("signIn.name");
        assertThat(new SignIn.Bearer().problem()).isEmpty();
    }
}
