# cython: language_level=3, boundscheck=False, wraparound=False, initializedcheck=False, cdivision=True
"""Exact sums per cell without the interpreter's lock: the same as `exact` works out with numpy, in one pass each.

`tests/summary/test_factors.py` holds both to fractions, `tests/program/test_compiled.py` whole tables to each other.
"""

from libc.math cimport fabs
from libc.stdint cimport int32_t, int64_t, uint64_t
from libc.stdlib cimport calloc, free, malloc
from libc.string cimport memcpy

import numpy as np

cdef extern from *:
    """
    #include <stdint.h>
    #include <string.h>
    #if defined(__SSE2__)
    #include <emmintrin.h>
    #endif

    typedef __int128 int128_t;

    #define LEVEL ((int64_t) 1 << 36)  /* as in `exact` */
    #define LARGEST 1e10
    #define SCALE 1e4  /* four decimals, as in `exact` */
    #define TO_WHOLE 6755399441055744.0  /* 1.5 x 2^52: adding it rounds to a whole number, which its last bits hold */

    /* The numbers at the beginning that have at most four decimals, as whole ten-thousandths, two at a time: how many
       these are, an even number. */
    static inline Py_ssize_t scaled_pairs(const double* numbers, int64_t* into, Py_ssize_t rows, double* most) {
        Py_ssize_t row = 0;
        #if defined(__SSE2__)
        const double constants[4] = {SCALE, TO_WHOLE, LARGEST, -0.0};
        const __m128d scale = _mm_load1_pd(constants), to_whole = _mm_load1_pd(constants + 1);
        const __m128d largest = _mm_load1_pd(constants + 2), sign = _mm_load1_pd(constants + 3);
        __m128d sizes = _mm_load1_pd(most);
        for (; row + 1 < rows; row += 2) {
            __m128d two = _mm_loadu_pd(numbers + row);
            __m128d lifted = _mm_add_pd(_mm_mul_pd(two, scale), to_whole), whole = _mm_sub_pd(lifted, to_whole);
            __m128d fit = _mm_and_pd(_mm_cmple_pd(_mm_andnot_pd(sign, two), largest),
                                     _mm_cmpeq_pd(_mm_div_pd(whole, scale), two));
            if (_mm_movemask_pd(fit) != 3) break;
            _mm_storeu_si128((__m128i*) (into + row),
                             _mm_sub_epi64(_mm_castpd_si128(lifted), _mm_castpd_si128(to_whole)));
            sizes = _mm_max_pd(sizes, _mm_andnot_pd(sign, whole));
        }
        double both[2];
        _mm_storeu_pd(both, sizes);
        *most = both[0] > both[1] ? both[0] : both[1];
        #endif
        return row;
    }
    """
    ctypedef long long int128_t
    const int64_t LEVEL
    double LARGEST, SCALE, TO_WHOLE
    Py_ssize_t scaled_pairs(const double* numbers, int64_t* into, Py_ssize_t rows, double* most) nogil

cdef enum:
    BITS = 36  # of one level, as in `exact`
    MOST_FACTORS = 6
    MOST_TERMS = 32  # that the exact product of so many numbers may have
    MOST_LEVELS = 64
    BLOCK = 256  # rows whose products are made before they are added up: few enough to stay near the processor

cdef struct Step:
    const int64_t* column
    char* room  # for its products of some rows, of 63 or 127 bits each
    int before
    bint wide

cdef struct Target:
    int64_t* into[4]
    int product
    int depth

MISSING = -(1 << 62)
OTHER = MISSING + 1
cdef int64_t _MISSING = MISSING
cdef int64_t _OTHER = OTHER


def scaled(const double[::1] numbers):
    """Numbers of at most four decimals as whole ten-thousandths.

    Args:
        numbers: Shape (rows,); NaN where there is none.

    Returns:
        The whole numbers, shape (rows,); the largest size among them; how many numbers are none of that kind; and how
        many are missing. Both stand as numbers below all others: `MISSING` and `OTHER`.
    """
    cdef Py_ssize_t rows = numbers.shape[0], row, others = 0, missing = 0
    result = np.empty(rows, dtype=np.int64)
    cdef int64_t[::1] into = result
    cdef double number, whole, most = 0.0
    if not rows:
        return result, most, others, missing
    with nogil:
        row = 0
        while row < rows:
            row += scaled_pairs(&numbers[row], &into[row], rows - row, &most)
            if row == rows:
                break
            number = numbers[row]
            whole = (number * SCALE + TO_WHOLE) - TO_WHOLE
            if fabs(number) <= LARGEST and whole / SCALE == number:
                into[row] = <int64_t> whole
                if fabs(whole) > most:
                    most = fabs(whole)
            elif number != number:
                into[row] = _MISSING
                missing += 1
            else:
                into[row] = _OTHER
                others += 1
            row += 1
    return result, most, others, missing


def add_wholes(const int64_t[::1] cells, columns, steps, targets):
    """Adds products of whole numbers to sums per cell, all of them in one pass over the rows.

    Args:
        cells: The cell of each row, shape (rows,).
        columns: The whole numbers, shape (rows,) each.
        steps: How each product is made: (an earlier product, the column it is multiplied by, whether the result may
            need more than 63 bits). Without an earlier product (-1) it is the column itself, and without a column (-1)
            too it is 1.
        targets: (A product, the sums it is added to in levels of 2³⁶, lowest first, shape (cells,) each.) The last
            level holds all that is above; there are one, two or four, and one only for products of up to 63 bits.

    Raises:
        MemoryError: There is no room for the products of a few rows.
    """
    cdef Py_ssize_t rows = cells.shape[0], start, size
    cdef int made = len(steps), wanted = len(targets), number, place
    cdef const int64_t[::1] column
    cdef int64_t[::1] level
    cdef Step* step = <Step*> calloc(made + 1, sizeof(Step))
    cdef Target* target = <Target*> calloc(wanted + 1, sizeof(Target))
    cdef char* room = <char*> malloc((made + 1) * BLOCK * sizeof(int128_t))
    try:
        if step == NULL or target == NULL or room == NULL:
            raise MemoryError
        for number, (before, place, wide) in enumerate(steps):
            step[number].before, step[number].wide = before, wide
            step[number].room = room + number * BLOCK * sizeof(int128_t)
            if place >= 0:
                column = columns[place]
                step[number].column = &column[0] if rows else NULL
        for number, (place, levels) in enumerate(targets):
            target[number].product, target[number].depth = place, len(levels)
            for place in range(target[number].depth):
                level = levels[place]
                target[number].into[place] = &level[0] if level.shape[0] else NULL
        with nogil:
            start = 0
            while start < rows:
                size = min(<Py_ssize_t> BLOCK, rows - start)
                for number in range(made):
                    _multiply(step, number, start, size)
                for number in range(wanted):
                    _scatter(&step[target[number].product], &target[number], &cells[start], start, size)
                start += size
    finally:
        free(step)
        free(target)
        free(room)


cdef inline const int64_t* _narrow(const Step* step, Py_ssize_t start) noexcept nogil:
    """The products of some rows that fit 63 bits: those of a column alone stand in it."""
    return step.column + start if step.before < 0 and step.column != NULL else <const int64_t*> step.room


cdef void _multiply(const Step* steps, int number, Py_ssize_t start, Py_ssize_t size) noexcept nogil:
    cdef const Step* step = &steps[number]
    cdef const Step* earlier
    cdef const int64_t* factor
    cdef const int64_t* column
    cdef const int128_t* wide
    cdef int64_t* narrow = <int64_t*> step.room
    cdef int128_t* into = <int128_t*> step.room
    cdef Py_ssize_t row
    if step.before < 0:
        if step.column == NULL:
            for row in range(size):
                narrow[row] = 1
        return
    earlier, column = &steps[step.before], step.column + start
    if earlier.wide:
        wide = <const int128_t*> earlier.room
        for row in range(size):
            into[row] = wide[row] * column[row]
        return
    factor = _narrow(earlier, start)
    if step.wide:
        for row in range(size):
            into[row] = <int128_t> factor[row] * column[row]
    else:
        for row in range(size):
            narrow[row] = factor[row] * column[row]


cdef void _scatter(
    const Step* step, const Target* target, const int64_t* cells, Py_ssize_t start, Py_ssize_t size
) noexcept nogil:
    cdef const int64_t* narrow = _narrow(step, start)
    cdef const int128_t* wide = <const int128_t*> step.room
    cdef int64_t* low = target.into[0]
    cdef int64_t* second = target.into[1]
    cdef int64_t* third = target.into[2]
    cdef int64_t* high = target.into[3]
    cdef Py_ssize_t row
    cdef int64_t cell
    cdef int128_t product
    if target.depth == 1:
        for row in range(size):
            low[cells[row]] += narrow[row]
    elif not step.wide:
        for row in range(size):
            cell = cells[row]
            low[cell] += narrow[row] & (LEVEL - 1)
            second[cell] += narrow[row] >> BITS
    elif target.depth == 2:
        for row in range(size):
            cell = cells[row]
            low[cell] += <int64_t> wide[row] & (LEVEL - 1)
            second[cell] += <int64_t> (wide[row] >> BITS)
    else:
        for row in range(size):
            cell, product = cells[row], wide[row]
            low[cell] += <int64_t> product & (LEVEL - 1)
            product >>= BITS
            second[cell] += <int64_t> product & (LEVEL - 1)
            product >>= BITS
            third[cell] += <int64_t> product & (LEVEL - 1)
            high[cell] += <int64_t> (product >> BITS)


def exponents(const double[::1] numbers):
    """The smallest and the largest exponent of two among some numbers; (1, 0) where all are 0.

    Args:
        numbers: Shape (rows,), finite.
    """
    cdef Py_ssize_t row
    cdef int least = 5000, most = -5000, exponent
    cdef double number
    cdef uint64_t bits
    with nogil:
        for row in range(numbers.shape[0]):
            number = numbers[row]
            if number != 0.0:
                memcpy(&bits, &number, 8)
                exponent = <int> ((bits >> 52) & 2047) - 1023
                least = exponent if exponent < least else least
                most = exponent if exponent > most else most
    if most < least:
        least, most = 1, 0
    return least, most


def add_numbers(const int64_t[::1] cells, columns, levels, int lowest):
    """Adds the products of numbers to sums per cell, exactly.

    A product of two doubles is the sum of two doubles (Dekker 1971); so a product of several is a sum of several, and
    each of these goes to the levels it touches.

    Args:
        cells: The cell of each row, shape (rows,).
        columns: The numbers, shape (rows,) each, finite, at most six columns.
        levels: The sums in levels of 2³⁶, shape (cells,) each, as many as the products may touch.
        lowest: Of which power of 2³⁶ the first of them holds multiples.
    """
    cdef Py_ssize_t rows = cells.shape[0], row, cell
    cdef int count = len(columns), number, terms, term, level
    cdef const double* factors[MOST_FACTORS]
    cdef int64_t* into[MOST_LEVELS]
    cdef double units[MOST_LEVELS]
    cdef double inverse[MOST_LEVELS]
    cdef double parts[MOST_TERMS]
    cdef const double[::1] column
    cdef int64_t[::1] kept
    cdef double rest, one, whole
    cdef uint64_t bits
    if not rows:
        return
    for number in range(count):
        column = columns[number]
        factors[number] = &column[0]
    for number in range(len(levels)):
        kept = levels[number]
        into[number] = &kept[0]
        units[number] = 2.0 ** (BITS * (number + lowest))
        inverse[number] = 2.0 ** (-BITS * (number + lowest))
    with nogil:
        for row in range(rows):
            cell = cells[row]
            parts[0] = factors[0][row]
            terms = 1
            for number in range(1, count):
                one = factors[number][row]
                for term in range(terms):
                    _multiplied(parts[term], one, &parts[term], &parts[terms + term])
                terms *= 2
            for term in range(terms):
                rest = parts[term]
                while rest != 0.0:
                    memcpy(&bits, &rest, 8)
                    level = (<int> ((bits >> 52) & 2047) - 1023 - BITS * lowest) // BITS
                    whole = <double> (<int64_t> (rest * inverse[level]))
                    into[level][cell] += <int64_t> whole
                    rest -= whole * units[level]


cdef inline void _multiplied(double one, double other, double* rounded, double* error) noexcept nogil:
    cdef double one_high, other_high, one_low, other_low, scaled_one = one * 134217729.0, result = one * other
    cdef double scaled_other = other * 134217729.0
    one_high = scaled_one - (scaled_one - one)
    other_high = scaled_other - (scaled_other - other)
    one_low, other_low = one - one_high, other - other_high
    error[0] = one_low * other_low - (((result - one_high * other_high) - one_low * other_high) - one_high * other_low)
    rounded[0] = result


ctypedef fused Code:
    int32_t
    int64_t


cdef Py_ssize_t _place_pairs(
    const Code* first,
    const Code* second,
    int64_t reach,
    int64_t second_reach,
    const int32_t* lookup,
    Py_ssize_t rows,
    int64_t* cells,
) noexcept:
    """`place` for two dimensions, which most tables have: several times as fast as a loop over any number of them."""
    cdef Py_ssize_t row, unknown = 0
    cdef int64_t one, other, cell
    with nogil:
        for row in range(rows):
            one, other = first[row], second[row]
            if one < 0 or other < 0:
                cells[row] = -1
                continue
            if one >= reach or other >= second_reach:
                unknown = -1
                break
            cell = lookup[one * second_reach + other]
            if cell < 0:
                cell = -2 - (one * second_reach + other)
                unknown += 1
            cells[row] = cell
    return unknown


def place(codes, sizes, const int32_t[::1] lookup, int64_t[::1] cells):
    """The cell of each row, by a table of all combinations of levels.

    Args:
        codes: The level places in each dimension, shape (rows,) each, of four or eight bytes, negative for none.
        sizes: How many levels each dimension has; there are no more than sixteen dimensions.
        lookup: The cell of each combination, -1 where it has none yet, shape (product of `sizes`,).
        cells: Where the cells go, shape (rows,): -1 without a level, and -2 - combination where it has no cell yet.

    Returns:
        How many rows have a combination without a cell; -1 where a dimension has more levels than it should, and the
        cells are of no use.
    """
    cdef Py_ssize_t rows = cells.shape[0], row
    cdef int count = len(codes), number
    cdef const int32_t* narrow[16]
    cdef const int64_t* wide[16]
    cdef int64_t reach[16]
    cdef const int32_t[::1] four
    cdef const int64_t[::1] eight
    cdef int64_t flat, code, cell
    cdef Py_ssize_t unknown = 0
    if not rows:
        return 0
    for number in range(count):
        reach[number] = sizes[number]
        narrow[number], wide[number] = NULL, NULL
        if codes[number].itemsize == 4:
            four = codes[number]
            narrow[number] = &four[0]
        else:
            eight = codes[number]
            wide[number] = &eight[0]
    if count == 2 and narrow[0] != NULL and narrow[1] != NULL:
        return _place_pairs(narrow[0], narrow[1], reach[0], reach[1], &lookup[0], rows, &cells[0])
    if count == 2 and wide[0] != NULL and wide[1] != NULL:
        return _place_pairs(wide[0], wide[1], reach[0], reach[1], &lookup[0], rows, &cells[0])
    with nogil:
        for row in range(rows):
            flat = 0
            for number in range(count):
                code = wide[number][row] if narrow[number] == NULL else narrow[number][row]
                if code < 0:
                    flat = -1
                    break
                if code >= reach[number]:
                    flat = -2
                    break
                flat = flat * reach[number] + code
            if flat == -2:
                unknown = -1
                break
            if flat < 0:
                cells[row] = -1
                continue
            cell = lookup[flat]
            if cell < 0:
                cell = -2 - flat
                unknown += 1
            cells[row] = cell
    return unknown


def span(const int64_t[::1] wholes):
    """The lowest and the highest of some whole numbers, and the largest power of ten up to 10⁴ that divides all.

    Args:
        wholes: Shape (rows,); `MISSING` is passed over. Without any number the lowest is above the highest.
    """
    cdef Py_ssize_t row
    cdef int64_t least = 1 << 62, most = -(1 << 62), whole, unit = 10000
    with nogil:
        for row in range(wholes.shape[0]):
            whole = wholes[row]
            if whole == _MISSING:
                continue
            least = whole if whole < least else least
            most = whole if whole > most else most
            while whole % unit:
                unit //= 10
    return least, most, unit


def value_places(
    const int64_t[::1] cells, const int64_t[::1] wholes, int64_t least, int64_t unit, int64_t reach, int64_t[::1] places
):
    """Where each row stands in a table of all values in all cells: cell · reach + (value − least) / unit, or -1.

    Args:
        cells: The cell of each row, shape (rows,); negative ones are nowhere.
        wholes: Its value as a whole number, shape (rows,); `MISSING` is nowhere.
        least: The lowest value of the table.
        unit: What all values are multiples of.
        reach: How many values the table has for each cell.
        places: Where the places go, shape (rows,).
    """
    cdef Py_ssize_t row
    with nogil:
        for row in range(cells.shape[0]):
            if cells[row] < 0 or wholes[row] == _MISSING:
                places[row] = -1
            else:
                places[row] = cells[row] * reach + (wholes[row] - least) // unit


def count_places(const int64_t[::1] places, int64_t[::1] counts):
    """Counts how often each place occurs; negative ones are passed over.

    Args:
        places: Shape (rows,).
        counts: Added to, shape (places,).
    """
    cdef Py_ssize_t row
    with nogil:
        for row in range(places.shape[0]):
            if places[row] >= 0:
                counts[places[row]] += 1
