package dastur.server.api;

import com.fasterxml.jackson.databind.MappingIterator;
import com.fasterxml.jackson.dataformat.csv.CsvMapper;
import com.fasterxml.jackson.dataformat.csv.CsvParser;
import com.fasterxml.jackson.dataformat.csv.CsvSchema;
import dastur.core.json.Texts;
import dastur.server.http.Problem;
import java.io.IOException;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.function.Predicate;

/** Tables as CSV (RFC 4180), with a first line of column names, that no spreadsheet runs as formulas (CWE-1236). */
final class Csv {
    /** A spreadsheet would take a cell that begins so for a formula. */
    private static final String FORMULA = "=+-@\t\r";

    /** A value that does not fit. */
    static final class Wrong extends RuntimeException {
        private static final long serialVersionUID = 1;

        final String where;

        Wrong(String where, String message) {
            super(message, null, false, false);
            this.where = where;
        }
    }

    private Csv() {}

    /** A file is taken over whole or not at all. @param wrong how many of its rows cannot be */
    static void takesAll(int wrong) {
        if (wrong > 0) {
            throw Problem.invalid(
                            "csv",
                            wrong
                                    + " rows cannot be taken over, so nothing was. Try it without taking over to see which.")
                    .end();
        }
    }

    static String write(List<String> columns, List<Map<String, Object>> rows) {
        CsvSchema.Builder schema = CsvSchema.builder();
        columns.forEach(schema::addColumn);
        try {
            return new CsvMapper()
                    .writer(schema.build().withHeader().withLineSeparator("\r\n"))
                    .writeValueAsString(rows.stream().map(Csv::guarded).toList());
        } catch (IOException e) {
            throw new IllegalStateException(e);
        }
    }

    private static Map<String, Object> guarded(Map<String, Object> row) {
        Map<String, Object> guarded = new LinkedHashMap<>();
        row.forEach((name, value) -> guarded.put(name, isFormula(String.valueOf(value)) ? "'" + value : value));
        return guarded;
    }

    private static boolean isFormula(String cell) {
        return !cell.isEmpty() && FORMULA.indexOf(cell.charAt(0)) >= 0 && !cell.matches("[+-]?\\d+(\\.\\d+)?");
    }

    /** A line of a file. @param number counted from 1 @param cells by the names of their columns; null where a line ends early */
    record Line(int number, Map<String, String> cells) {}

    /**
     * The rows below the names of the columns. A text that is no CSV, is empty or has too many rows, or a column that nobody knows, ends
     * the request.
     *
     * @param known whether there is such a column; @param columns says which there are
     */
    static List<Line> read(String csv, int most, Predicate<String> known, String columns) {
        List<Line> lines = new ArrayList<>();
        try (MappingIterator<Map<String, String>> all = new CsvMapper()
                .readerForMapOf(String.class)
                .with(CsvParser.Feature.TRIM_SPACES)
                .with(CsvParser.Feature.FAIL_ON_MISSING_HEADER_COLUMNS)
                .with(CsvSchema.emptySchema().withHeader())
                // Without its end the last line would count as the one before.
                .readValues(csv.endsWith("\n") ? csv : csv + "\n")) {
            while (all.hasNextValue()) {
                Map<String, String> cells = all.nextValue();
                cells.replaceAll((column, cell) -> cell == null ? null : unguarded(cell));
                cells.keySet().stream().filter(known.negate()).findFirst().ifPresent(c -> {
                    throw Problem.invalid(
                                    "csv",
                                    "There is no column '" + Texts.clip(c, 40) + "'. Known are: " + columns + ".")
                            .end();
                });
                if (lines.size() == most) {
                    throw Problem.invalid("csv", "At most " + most + " rows can be taken over at once.")
                            .end();
                }
                lines.add(new Line(all.getCurrentLocation().getLineNr() - 1, cells));
            }
        } catch (IOException e) {
            throw Problem.invalid(
                            "csv",
                            "This is no CSV with a first line of column names: row " + (lines.size() + 1)
                                    + " cannot be read.")
                    .end();
        }
        if (lines.isEmpty()) {
            throw Problem.invalid("csv", "There is no row below the column names.")
                    .end();
        }
        return lines;
    }

    /** What was guarded when it went out comes back as it was. */
    static String unguarded(String cell) {
        return cell.startsWith("'") && isFormula(cell.substring(1)) ? cell.substring(1) : cell;
    }
}
