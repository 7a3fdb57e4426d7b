# cython: language_level=3, boundscheck=False, wraparound=False, initializedcheck=False, cdivision=True
"""Delimited text into columns, and text into numbers, without the interpreter's lock.

Everything here has a twin in Arrow or in Python that gives the same: this one is faster, and lets blocks be read on
several cores at once. Where it was not built, the twin is used. `tests/records/test_pieces.py` and
`tests/records/test_reading.py` hold the two together column by column, `tests/program/test_compiled.py` table by table.
"""

from libc.math cimport INFINITY, NAN
from libc.stdint cimport int32_t, int64_t, uint8_t, uint32_t, uint64_t
from libc.stdlib cimport calloc, free, malloc, realloc
from libc.string cimport memcmp, memcpy, memset

import numpy as np

cdef extern from *:
    """
    #include <stdlib.h>
    #if defined(__SSE2__)
    #include <emmintrin.h>
    #endif
    #if defined(__GLIBC__)
    #include <malloc.h>
    #endif

    /* The extent of the numbers at the beginning, four at a time: how many these are. A comparison with a missing one
       gives the other operand, which is the last one here. */
    static inline Py_ssize_t paired_extent(
        const double* numbers, Py_ssize_t rows, double* least, double* most, Py_ssize_t* missing
    ) {
        Py_ssize_t row = 0;
        #if defined(__SSE2__)
        __m128d low = _mm_load1_pd(least), low_too = low, high = _mm_load1_pd(most), high_too = high;
        __m128i gaps = _mm_setzero_si128();
        for (; row + 3 < rows; row += 4) {
            __m128d two = _mm_loadu_pd(numbers + row), more = _mm_loadu_pd(numbers + row + 2);
            low = _mm_min_pd(two, low), low_too = _mm_min_pd(more, low_too);
            high = _mm_max_pd(two, high), high_too = _mm_max_pd(more, high_too);
            gaps = _mm_sub_epi64(gaps, _mm_castpd_si128(_mm_cmpunord_pd(two, two)));
            gaps = _mm_sub_epi64(gaps, _mm_castpd_si128(_mm_cmpunord_pd(more, more)));
        }
        double lows[2], highs[2];
        long long counts[2];
        _mm_storeu_pd(lows, _mm_min_pd(low, low_too));
        _mm_storeu_pd(highs, _mm_max_pd(high, high_too));
        _mm_storeu_si128((__m128i*) counts, gaps);
        *least = lows[0] < lows[1] ? lows[0] : lows[1];
        *most = highs[0] > highs[1] ? highs[0] : highs[1];
        *missing += (Py_ssize_t) (counts[0] + counts[1]);
        #endif
        return row;
    }

    /* Columns of a block are megabytes: glibc fetches each anew from the system, page by page, unless it is told to
       keep what it has, and keeps a stock for each thread, unless it is told to have one. Elsewhere nothing is done. */
    static void keep_freed(int largest, int spare) {
        #if defined(__GLIBC__)
        mallopt(M_MMAP_THRESHOLD, largest);
        mallopt(M_TRIM_THRESHOLD, spare);
        mallopt(M_ARENA_MAX, 1);
        #endif
    }

    #if defined(__SSE2__)
    #include <emmintrin.h>
    #include <string.h>

    static inline __m128i sixteen(uint8_t byte) {
        uint8_t bytes[16];
        memset(bytes, byte, 16);
        return _mm_loadu_si128((const __m128i*) bytes);
    }
    #endif

    /* Which of 64 bytes are a separator, a line end or a quotation mark: one bit each, the first byte lowest. */
    static inline uint64_t special_bytes(const uint8_t* text, uint8_t separator) {
        uint64_t bits = 0;
        #if defined(__SSE2__)
        const __m128i one = sixteen(separator), two = sixteen(10), three = sixteen(13), four = sixteen(34);
        for (int part = 0; part < 4; part++) {
            __m128i bytes = _mm_loadu_si128((const __m128i*) (text + 16 * part));
            __m128i found = _mm_or_si128(
                _mm_or_si128(_mm_cmpeq_epi8(bytes, one), _mm_cmpeq_epi8(bytes, two)),
                _mm_or_si128(_mm_cmpeq_epi8(bytes, three), _mm_cmpeq_epi8(bytes, four)));
            bits |= (uint64_t) (uint32_t) _mm_movemask_epi8(found) << (16 * part);
        }
        #else
        for (int at = 0; at < 64; at++) {
            uint8_t byte = text[at];
            bits |= (uint64_t) (byte == separator || byte == 10 || byte == 13 || byte == 34) << at;
        }
        #endif
        return bits;
    }

    static inline int lowest_bit(uint64_t bits) {
        #if defined(__GNUC__)
        return __builtin_ctzll(bits);
        #else
        int place = 0;
        while (!(bits & 1)) { bits >>= 1; place++; }
        return place;
        #endif
    }
    """
    void keep_freed(int largest, int spare)
    Py_ssize_t paired_extent(
        const double* numbers, Py_ssize_t rows, double* least, double* most, Py_ssize_t* missing
    ) nogil
    uint64_t special_bytes(const uint8_t* text, uint8_t separator) nogil
    int lowest_bit(uint64_t bits) nogil

cdef enum:
    LARGEST_COLUMN = 1 << 26  # bytes: columns of a block have a few megabytes
    MOST_SPARE = 1 << 28  # bytes that are kept between two blocks

cdef struct Cursor:
    const uint8_t* text
    Py_ssize_t size
    Py_ssize_t block  # where the 64 bytes looked at start
    uint64_t bits  # the special ones among them that are still to come
    uint8_t separator


cdef inline Py_ssize_t _next(Cursor* cursor) noexcept nogil:
    """The place of the next special byte; the size of the text where there is none."""
    cdef uint8_t last[64]
    cdef Py_ssize_t place
    while cursor.bits == 0:
        cursor.block += 64
        if cursor.block >= cursor.size:
            cursor.block = cursor.size
            return cursor.size
        if cursor.block + 64 <= cursor.size:
            cursor.bits = special_bytes(cursor.text + cursor.block, cursor.separator)
        else:
            memset(last, 0, 64)
            memcpy(last, cursor.text + cursor.block, cursor.size - cursor.block)
            cursor.bits = special_bytes(last, cursor.separator)
    place = cursor.block + lowest_bit(cursor.bits)
    cursor.bits &= cursor.bits - 1
    return place


cdef double[23] _TENS
cdef int _power
_TENS[0] = 1.0
for _power in range(1, 23):
    _TENS[_power] = _TENS[_power - 1] * 10.0  # exact: 5²² is less than 2⁵³


def keep_memory():
    """Has this process keep the memory of one block for the next, where the system can be told to."""
    keep_freed(LARGEST_COLUMN, MOST_SPARE)


class RaggedError(ValueError):
    """A row has more or fewer values than there are columns."""


cdef struct Column:
    int kept  # whether it is wanted
    int varied  # whether values are written one after the other, and not as places in a list of different ones
    int32_t* ends  # where the values end, or the places; one for each row
    uint8_t* bytes  # the values, or the different ones, one after the other
    Py_ssize_t used
    Py_ssize_t room
    int32_t* starts  # of the different values
    int32_t different
    int32_t starts_room
    uint64_t* words  # of the different values: the value itself where it has at most eight bytes, else its hash
    int32_t* slots  # a hash table: the place of a different value, or -1
    uint32_t mask
    const uint8_t* end  # of the text: bytes before it may be looked at, whatever they belong to


def split(const uint8_t[::1] text, int separator, int columns, wanted, Py_ssize_t skip, bint last):
    """Cuts records into the columns wanted. An empty line is no record.

    Args:
        text: Records, the first from its start.
        separator: The byte between values.
        columns: How many values each record has.
        wanted: For each column wanted its number, and whether its values are so varied that they are not collected.
        skip: How many records at the start are passed over, empty lines not counted.
        last: Whether a record that the end of the text cuts short is a record.

    Returns:
        For each column wanted the places of its values in a list of different ones (None where it is varied), and of
        the values in that list, or of all, the offsets and the bytes; where the record starts that the end of the text
        meets within quotation marks, the size of the text where none is; and how many records were passed over.

    Raises:
        RaggedError: A record has more or fewer values.
        MemoryError: There is no room, or the text is larger than 2 GiB.
    """
    cdef Py_ssize_t size = text.shape[0], rows = 0, rest = size, skipped = skip
    cdef Py_ssize_t most = size // columns + 2  # each value has a byte behind it, but the last
    cdef Column* table = <Column*> calloc(columns, sizeof(Column))
    cdef int outcome = 0, number
    cdef const uint8_t* start = &text[0] if size else NULL
    if table == NULL or size >= 2**31 - 1:  # places in a text are kept in four bytes
        free(table)
        raise MemoryError
    try:
        for number, varied in wanted:
            if not _prepare(&table[number], start, size, most, varied):
                raise MemoryError
        with nogil:
            outcome = _cut(start, size, separator, columns, table, &skipped, last, &rows, &rest)
        if outcome == 1:
            raise RaggedError
        if outcome == 2:
            raise MemoryError
        return [_finished(&table[number], rows) for number, _ in wanted], rest, skip - skipped
    finally:
        for number in range(columns):
            free(table[number].ends)
            free(table[number].bytes)
            free(table[number].starts)
            free(table[number].words)
            free(table[number].slots)
        free(table)


cdef bint _prepare(Column* column, const uint8_t* text, Py_ssize_t size, Py_ssize_t rows, bint varied):
    column.kept, column.varied, column.end = True, varied, text + size
    column.ends = <int32_t*> malloc((rows + 1) * sizeof(int32_t))
    column.room = size + 16 if varied else 1 << 12  # all of a text at most, and 16 bytes to copy without counting
    column.bytes = <uint8_t*> malloc(column.room)
    if column.ends == NULL or column.bytes == NULL:
        return False
    if not varied:
        column.starts_room = 64
        column.starts = <int32_t*> malloc((column.starts_room + 1) * sizeof(int32_t))
        column.words = <uint64_t*> malloc(column.starts_room * sizeof(uint64_t))
        column.mask = 255
        column.slots = <int32_t*> malloc(256 * sizeof(int32_t))
        if column.starts == NULL or column.slots == NULL or column.words == NULL:
            return False
        for slot in range(256):
            column.slots[slot] = -1
        column.starts[0] = 0
    return True


cdef object _finished(Column* column, Py_ssize_t rows):
    if column.varied:
        offsets = np.empty(rows + 1, dtype=np.int32)
        offsets[0] = 0
        if rows:
            offsets[1:] = <int32_t[:rows]> column.ends
        return None, offsets, column.bytes[:column.used]
    places = np.empty(rows, dtype=np.int32)
    if rows:
        places[:] = <int32_t[:rows]> column.ends
    return places, np.asarray(<int32_t[:column.different + 1]> column.starts).copy(), column.bytes[:column.used]


cdef int _cut(
    const uint8_t* text, Py_ssize_t size, int separator, int columns, Column* table, Py_ssize_t* skip, bint last,
    Py_ssize_t* rows, Py_ssize_t* rest,
) noexcept nogil:
    """0 where all went well, 1 for a ragged record, 2 without memory."""
    cdef Cursor cursor
    cdef Py_ssize_t at = 0, record = 0, special, first, end
    cdef int number = 0, outcome = 0
    cdef bint kept
    cdef const uint8_t* value
    cdef uint8_t* plain = NULL  # a quoted value that is not written in one piece
    cdef Py_ssize_t plain_room = 0, plain_used
    cursor.text, cursor.size, cursor.block, cursor.bits, cursor.separator = text, size, -64, 0, separator
    while outcome == 0:
        special = _next(&cursor)
        kept = not skip[0] and number < columns and table[number].kept
        value, end = text + at, special - at
        if special < size and text[special] == 34:
            if special != at:
                continue  # it belongs to a value without quotation marks
            first, plain_used = at + 1, 0
            while True:  # up to the end of the value, whatever stands behind its closing quotation mark
                special = _next(&cursor)
                while special < size and text[special] != 34:
                    special = _next(&cursor)
                if special + 1 < size and text[special + 1] == 34:  # twice: one of them belongs to the value
                    if kept and not _append(&plain, &plain_used, &plain_room, text + first, special + 1 - first):
                        outcome = 2
                    _next(&cursor)
                    first = special + 2
                    continue
                break
            if special == size:
                rest[0] = record
                if not last:
                    break
                end = size
            else:
                end = special
                special = _next(&cursor)
                while special < size and text[special] == 34:
                    special = _next(&cursor)
            if plain_used == 0 and special <= end + 1:
                value, end = text + first, end - first
            elif kept:
                if not _append(&plain, &plain_used, &plain_room, text + first, end - first):
                    outcome = 2
                if special > end + 1 and not _append(
                    &plain, &plain_used, &plain_room, text + end + 1, special - end - 1
                ):
                    outcome = 2
                value, end = plain, plain_used
        elif special == at and number == 0 and (special == size or text[special] != separator):
            if special == size:
                break
            at = record = special + 1  # an empty line
            continue
        if kept and outcome == 0 and not _add(&table[number], rows[0], value, end):
            outcome = 2
        number += 1
        at = special + 1
        if special == size or text[special] != separator:
            if special < size and text[special] == 13 and at < size and text[at] == 10:
                _next(&cursor)
                at += 1
            if skip[0]:
                skip[0] -= 1
            else:
                if number != columns and outcome == 0:
                    outcome = 1
                rows[0] += 1
            number, record = 0, at
            if special == size:
                break
    free(plain)
    return outcome


cdef bint _append(uint8_t** text, Py_ssize_t* used, Py_ssize_t* room, const uint8_t* more, Py_ssize_t size) noexcept nogil:
    cdef Py_ssize_t wanted = used[0] + size
    cdef uint8_t* larger
    if wanted + 16 > room[0]:  # so many bytes behind are there to be looked at by `_add`
        wanted = 2 * wanted + 64
        larger = <uint8_t*> realloc(text[0], wanted)
        if larger == NULL:
            return False
        text[0], room[0] = larger, wanted
    memcpy(text[0] + used[0], more, size)
    used[0] += size
    return True


cdef inline bint _add(Column* column, Py_ssize_t row, const uint8_t* value, Py_ssize_t size) noexcept nogil:
    if not column.varied:
        return _add_place(column, row, value, size)
    if size <= 16 and value + 16 <= column.end:
        memcpy(column.bytes + column.used, value, 16)
    else:
        memcpy(column.bytes + column.used, value, size)
    column.used += size
    column.ends[row] = <int32_t> column.used
    return True


cdef inline bint _add_place(Column* column, Py_ssize_t row, const uint8_t* value, Py_ssize_t size) noexcept nogil:
    cdef uint64_t word = 0, hashed
    cdef uint32_t slot
    cdef int32_t place
    if size <= 8 and value + 8 <= column.end:
        memcpy(&word, value, 8)
        word = word & (((<uint64_t> 1) << (8 * size)) - 1) if size < 8 else word
    elif size <= 8:
        memcpy(&word, value, size)
    else:
        word = _hash(value, size)
    hashed = (word ^ <uint64_t> size) * <uint64_t> 0x9E3779B97F4A7C15
    slot = <uint32_t> (hashed >> 32) & column.mask
    while True:
        place = column.slots[slot]
        if place < 0:
            break
        if (
            column.words[place] == word and column.starts[place + 1] - column.starts[place] == size
            and (size <= 8 or memcmp(column.bytes + column.starts[place], value, size) == 0)
        ):
            column.ends[row] = place
            return True
        slot = (slot + 1) & column.mask
    return _add_different(column, row, value, size, word, slot)


cdef bint _add_different(
    Column* column, Py_ssize_t row, const uint8_t* value, Py_ssize_t size, uint64_t word, uint32_t slot
) noexcept nogil:
    cdef int32_t place = column.different
    if place == column.starts_room and not _more_room(column):
        return False
    if not _append(&column.bytes, &column.used, &column.room, value, size):
        return False
    column.different += 1
    column.starts[place + 1] = <int32_t> column.used
    column.words[place] = word
    column.ends[row] = place
    column.slots[slot] = place
    return True if <uint32_t> column.different * 2 <= column.mask else _more_slots(column)


cdef bint _more_room(Column* column) noexcept nogil:
    cdef int32_t* starts = <int32_t*> realloc(column.starts, (2 * column.starts_room + 1) * sizeof(int32_t))
    cdef uint64_t* words
    if starts == NULL:
        return False
    column.starts = starts
    words = <uint64_t*> realloc(column.words, 2 * column.starts_room * sizeof(uint64_t))
    if words == NULL:
        return False
    column.words = words
    column.starts_room *= 2
    return True


cdef bint _more_slots(Column* column) noexcept nogil:
    cdef uint32_t mask = 4 * (column.mask + 1) - 1, slot
    cdef int32_t* slots = <int32_t*> malloc((<size_t> mask + 1) * sizeof(int32_t))
    cdef int32_t place
    if slots == NULL:
        return False
    memset(slots, 255, (<size_t> mask + 1) * sizeof(int32_t))
    for place in range(column.different):
        slot = <uint32_t> (
            ((column.words[place] ^ <uint64_t> (column.starts[place + 1] - column.starts[place]))
             * <uint64_t> 0x9E3779B97F4A7C15) >> 32
        ) & mask
        while slots[slot] >= 0:
            slot = (slot + 1) & mask
        slots[slot] = place
    free(column.slots)
    column.slots, column.mask = slots, mask
    return True


cdef inline uint64_t _hash(const uint8_t* value, Py_ssize_t size) noexcept nogil:
    """Eight bytes at a time, multiplied by an odd number near 2⁶⁴ over the golden ratio (Knuth 1998, chapter 6.4)."""
    cdef uint64_t word, hashed = <uint64_t> size
    cdef Py_ssize_t at = 0
    while size - at >= 8:
        memcpy(&word, value + at, 8)
        hashed = (hashed ^ word) * <uint64_t> 0x9E3779B97F4A7C15
        hashed ^= hashed >> 29
        at += 8
    memcpy(&word, value + size - 8, 8)
    hashed = (hashed ^ word) * <uint64_t> 0x9E3779B97F4A7C15
    return hashed ^ (hashed >> 29)


def look_up(const int32_t[::1] places, const int32_t[::1] lookup):
    """What stands at some places of a table, shape (places,).

    Args:
        places: From 0; -1 is the last one of the table.
        lookup: The table.
    """
    cdef Py_ssize_t row, last = lookup.shape[0] - 1
    result = np.empty(places.shape[0], dtype=np.int32)
    cdef int32_t[::1] into = result
    with nogil:
        for row in range(places.shape[0]):
            into[row] = lookup[places[row] if places[row] >= 0 else last]
    return result


def extent(const double[::1] numbers):
    """The lowest and the highest of some numbers, and how many are missing.

    Args:
        numbers: Shape (rows,); NaN where there is none. Without any number the lowest is +inf and the highest -inf.
    """
    cdef Py_ssize_t row, missing = 0
    cdef double number, least = INFINITY, most = -INFINITY
    with nogil:
        row = paired_extent(&numbers[0] if numbers.shape[0] else NULL, numbers.shape[0], &least, &most, &missing)
        for row in range(row, numbers.shape[0]):
            number = numbers[row]
            least = number if number < least else least
            most = number if number > most else most
            missing += number != number
    return least, most, missing


def read_numbers(const int32_t[::1] offsets, const uint8_t[::1] text):
    """Texts as numbers, as far as they are plain: digits with or without a sign, a point, an exponent, blanks around.

    Args:
        offsets: Where the texts start, and the last one ends, shape (texts + 1,).
        text: Their bytes.

    Returns:
        The numbers, shape (texts,), NaN for a blank text and for what is not plain; and the places of the latter.
        Each is the double nearest to what is written: whole numbers below 2⁵³ and powers of ten up to 10²² are exact
        as doubles, so that one multiplication or division rounds once (Clinger 1990). Whatever is larger is not plain.
    """
    cdef Py_ssize_t count = offsets.shape[0] - 1, row
    numbers = np.empty(count, dtype=np.float64)
    cdef double[::1] into = numbers
    cdef const uint8_t* start = &text[0] if text.shape[0] else NULL
    cdef Py_ssize_t odd = 0, odd_room = 0
    cdef int64_t* others = NULL
    cdef int64_t* larger
    cdef bint room = True
    with nogil:
        for row in range(count):
            if not _number(start + offsets[row], start + offsets[row + 1], &into[row]):
                into[row] = NAN
                if odd == odd_room:
                    odd_room = 2 * odd_room + 64
                    larger = <int64_t*> realloc(others, odd_room * sizeof(int64_t))
                    if larger == NULL:
                        room = False
                        break
                    others = larger
                others[odd] = row
                odd += 1
    try:
        if not room:
            raise MemoryError
        return numbers, np.asarray(<int64_t[:odd]> others).copy() if odd else np.empty(0, dtype=np.int64)
    finally:
        free(others)


cdef bint _number(const uint8_t* at, const uint8_t* end, double* number) noexcept nogil:
    cdef uint64_t digits = 0
    cdef int decimals = 0, seen = 0, exponent = 0, size = 0
    cdef bint negative = False, point = False, down = False
    cdef double result
    cdef uint8_t byte
    while at < end and (at[0] == 32 or at[0] == 9):
        at += 1
    while at < end and ((end - 1)[0] == 32 or (end - 1)[0] == 9):
        end -= 1
    if at == end:
        number[0] = NAN
        return True
    if at[0] == 45 or at[0] == 43:
        negative = at[0] == 45
        at += 1
    while at < end:
        byte = at[0]
        if 48 <= byte <= 57:
            if digits >= <uint64_t> 900719925474099:  # one more digit may pass 2⁵³
                return False
            digits = digits * 10 + (byte - 48)
            seen += 1
            decimals += point
        elif byte == 46 and not point:
            point = True
        else:
            break
        at += 1
    if not seen:
        return False
    if at < end:
        if at[0] != 101 and at[0] != 69:
            return False
        at += 1
        if at < end and (at[0] == 45 or at[0] == 43):
            down = at[0] == 45
            at += 1
        while at < end and 48 <= at[0] <= 57 and size < 4:
            exponent = exponent * 10 + (at[0] - 48)
            size += 1
            at += 1
        if at < end or not size:
            return False
        decimals += exponent if down else -exponent
    if decimals > 22 or decimals < -22:
        return False
    result = <double> digits
    if decimals > 0:
        result /= _TENS[decimals]
    elif decimals < 0:
        result *= _TENS[-decimals]
    number[0] = -result if negative else result
    return True
