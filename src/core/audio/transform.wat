;; The discrete Fourier transform of complex numbers of double precision, each in one SIMD register: Stockham's ordering, which needs no
;; reversal of bits, in steps of four and at the end of two (C. Van Loan, Computational Frameworks for the Fast Fourier Transform, 1992).
(module
  (memory (export "memory") 1)

  ;; $size samples of single precision at $a and at $b, each times the $window's value of double precision, as real and imaginary parts
  ;; in turn to $to. The size is even.
  (func (export "window") (param $size i32) (param $a i32) (param $b i32) (param $window i32) (param $to i32)
    (local $end i32) (local $p v128) (local $q v128) (local $w v128)
    (local.set $end (i32.add (local.get $a) (i32.shl (local.get $size) (i32.const 2))))
    (loop $two
      (local.set $w (v128.load (local.get $window)))
      (local.set $p (f64x2.mul (local.get $w) (f64x2.promote_low_f32x4 (v128.load64_zero (local.get $a)))))
      (local.set $q (f64x2.mul (local.get $w) (f64x2.promote_low_f32x4 (v128.load64_zero (local.get $b)))))
      (v128.store (local.get $to)
        (i8x16.shuffle 0 1 2 3 4 5 6 7 16 17 18 19 20 21 22 23 (local.get $p) (local.get $q)))
      (v128.store offset=16 (local.get $to)
        (i8x16.shuffle 8 9 10 11 12 13 14 15 24 25 26 27 28 29 30 31 (local.get $p) (local.get $q)))
      (local.set $b (i32.add (local.get $b) (i32.const 8)))
      (local.set $window (i32.add (local.get $window) (i32.const 16)))
      (local.set $to (i32.add (local.get $to) (i32.const 32)))
      (br_if $two (i32.lt_u (local.tee $a (i32.add (local.get $a) (i32.const 8))) (local.get $end)))))

  ;; Transforms $size numbers at $x, with room for as many at $y and the factors e^(-2 pi i k / size) at $factors.
  ;; Returns the address at which the outcome lies: $x or $y.
  (func (export "transform") (param $size i32) (param $x i32) (param $y i32) (param $factors i32) (result i32)
    (local $n i32) (local $s i32) (local $p i32) (local $quarter i32) (local $stride i32) (local $step i32)
    (local $from i32) (local $to i32) (local $end i32) (local $one i32) (local $two i32) (local $three i32)
    (local $a v128) (local $b v128) (local $c v128) (local $d v128)
    (local $apc v128) (local $amc v128) (local $bpd v128) (local $jbmd v128) (local $swap i32)
    (local $one_r v128) (local $one_i v128) (local $two_r v128) (local $two_i v128) (local $three_r v128) (local $three_i v128)
    (local.set $n (local.get $size))
    (local.set $s (i32.const 1))
    (block $done
      (loop $stages
        (br_if $done (i32.lt_u (local.get $n) (i32.const 4)))
        (local.set $quarter (i32.shr_u (local.get $n) (i32.const 2)))
        ;; bytes from one quarter of the input to the next, and from one output to the next
        (local.set $stride (i32.shl (i32.mul (local.get $s) (local.get $quarter)) (i32.const 4)))
        (local.set $step (i32.shl (local.get $s) (i32.const 4)))
        (local.set $from (local.get $x))
        (local.set $to (local.get $y))
        (local.set $p (i32.const 0))
        (loop $groups
          (local.set $one (i32.add (local.get $factors) (i32.shl (i32.mul (local.get $p) (local.get $s)) (i32.const 4))))
          (local.set $two (i32.add (local.get $factors) (i32.shl (i32.mul (local.get $p) (local.get $s)) (i32.const 5))))
          (local.set $three (i32.add (local.get $factors)
            (i32.shl (i32.mul (i32.mul (local.get $p) (i32.const 3)) (local.get $s)) (i32.const 4))))
          ;; The imaginary parts with the sign that they have in the real part of a product.
          (local.set $one_r (v128.load64_splat (local.get $one)))
          (local.set $one_i (v128.xor (v128.load64_splat offset=8 (local.get $one)) (v128.const i64x2 0x8000000000000000 0)))
          (local.set $two_r (v128.load64_splat (local.get $two)))
          (local.set $two_i (v128.xor (v128.load64_splat offset=8 (local.get $two)) (v128.const i64x2 0x8000000000000000 0)))
          (local.set $three_r (v128.load64_splat (local.get $three)))
          (local.set $three_i (v128.xor (v128.load64_splat offset=8 (local.get $three)) (v128.const i64x2 0x8000000000000000 0)))
          (local.set $end (i32.add (local.get $from) (local.get $step)))
          (loop $within
            (local.set $a (v128.load (local.get $from)))
            (local.set $b (v128.load (i32.add (local.get $from) (local.get $stride))))
            (local.set $c (v128.load (i32.add (local.get $from) (i32.shl (local.get $stride) (i32.const 1)))))
            (local.set $d (v128.load (i32.add (local.get $from) (i32.mul (local.get $stride) (i32.const 3)))))
            (local.set $apc (f64x2.add (local.get $a) (local.get $c)))
            (local.set $amc (f64x2.sub (local.get $a) (local.get $c)))
            (local.set $bpd (f64x2.add (local.get $b) (local.get $d)))
            ;; i times (b - d)
            (local.set $b (f64x2.sub (local.get $b) (local.get $d)))
            (local.set $jbmd (v128.xor
              (i8x16.shuffle 8 9 10 11 12 13 14 15 0 1 2 3 4 5 6 7 (local.get $b) (local.get $b))
              (v128.const i64x2 0x8000000000000000 0)))
            ;; each is multiplied by its factor below
            (v128.store (local.get $to) (f64x2.add (local.get $apc) (local.get $bpd)))
            (v128.store (i32.add (local.get $to) (local.get $step))
              (f64x2.add
                (f64x2.mul (local.tee $c (f64x2.sub (local.get $amc) (local.get $jbmd))) (local.get $one_r))
                (f64x2.mul
                  (i8x16.shuffle 8 9 10 11 12 13 14 15 0 1 2 3 4 5 6 7 (local.get $c) (local.get $c))
                  (local.get $one_i))))
            (v128.store (i32.add (local.get $to) (i32.shl (local.get $step) (i32.const 1)))
              (f64x2.add
                (f64x2.mul (local.tee $c (f64x2.sub (local.get $apc) (local.get $bpd))) (local.get $two_r))
                (f64x2.mul
                  (i8x16.shuffle 8 9 10 11 12 13 14 15 0 1 2 3 4 5 6 7 (local.get $c) (local.get $c))
                  (local.get $two_i))))
            (v128.store (i32.add (local.get $to) (i32.mul (local.get $step) (i32.const 3)))
              (f64x2.add
                (f64x2.mul (local.tee $c (f64x2.add (local.get $amc) (local.get $jbmd))) (local.get $three_r))
                (f64x2.mul
                  (i8x16.shuffle 8 9 10 11 12 13 14 15 0 1 2 3 4 5 6 7 (local.get $c) (local.get $c))
                  (local.get $three_i))))
            (local.set $to (i32.add (local.get $to) (i32.const 16)))
            (br_if $within (i32.lt_u
              (local.tee $from (i32.add (local.get $from) (i32.const 16))) (local.get $end))))
          (local.set $to (i32.add (local.get $to) (i32.mul (local.get $step) (i32.const 3))))
          (br_if $groups (i32.lt_u (local.tee $p (i32.add (local.get $p) (i32.const 1))) (local.get $quarter))))
        (local.set $n (local.get $quarter))
        (local.set $s (i32.shl (local.get $s) (i32.const 2)))
        (local.set $swap (local.get $x))
        (local.set $x (local.get $y))
        (local.set $y (local.get $swap))
        (br $stages)))
    (if (i32.eq (local.get $n) (i32.const 2))
      (then
        (local.set $step (i32.shl (local.get $s) (i32.const 4)))
        (local.set $from (local.get $x))
        (local.set $end (i32.add (local.get $x) (local.get $step)))
        (local.set $to (local.get $y))
        (loop $last
          (local.set $a (v128.load (local.get $from)))
          (local.set $b (v128.load (i32.add (local.get $from) (local.get $step))))
          (v128.store (local.get $to) (f64x2.add (local.get $a) (local.get $b)))
          (v128.store (i32.add (local.get $to) (local.get $step)) (f64x2.sub (local.get $a) (local.get $b)))
          (local.set $to (i32.add (local.get $to) (i32.const 16)))
          (br_if $last (i32.lt_u (local.tee $from (i32.add (local.get $from) (i32.const 16))) (local.get $end))))
        (return (local.get $y))))
    (local.get $x))

  ;; Power spectra of two real frames whose transform, as real and imaginary part of one, lies at $z: bins 0 to size / 2 of the first at
  ;; $first and of the second at $second. A frame's mean counts four times, as all other bins have their mirror.
  (func (export "powers") (param $size i32) (param $z i32) (param $first i32) (param $second i32)
    (local $k i32) (local $up i32) (local $down i32)
    (local $pr f64) (local $pi f64) (local $qr f64) (local $qi f64) (local $u f64) (local $v f64)
    (local.set $u (f64.mul (f64.const 2) (f64.load (local.get $z))))
    (local.set $v (f64.mul (f64.const 2) (f64.load offset=8 (local.get $z))))
    (f64.store (local.get $first) (f64.mul (local.get $u) (local.get $u)))
    (f64.store (local.get $second) (f64.mul (local.get $v) (local.get $v)))
    (local.set $k (i32.const 1))
    (local.set $up (i32.add (local.get $z) (i32.const 16)))
    (local.set $down (i32.add (local.get $z) (i32.shl (i32.sub (local.get $size) (i32.const 1)) (i32.const 4))))
    (loop $bins
      (local.set $first (i32.add (local.get $first) (i32.const 8)))
      (local.set $second (i32.add (local.get $second) (i32.const 8)))
      (local.set $pr (f64.load (local.get $up)))
      (local.set $pi (f64.load offset=8 (local.get $up)))
      (local.set $qr (f64.load (local.get $down)))
      (local.set $qi (f64.load offset=8 (local.get $down)))
      (local.set $u (f64.add (local.get $pr) (local.get $qr)))
      (local.set $v (f64.sub (local.get $pi) (local.get $qi)))
      (f64.store (local.get $first) (f64.add (f64.mul (local.get $u) (local.get $u)) (f64.mul (local.get $v) (local.get $v))))
      (local.set $u (f64.add (local.get $pi) (local.get $qi)))
      (local.set $v (f64.sub (local.get $qr) (local.get $pr)))
      (f64.store (local.get $second) (f64.add (f64.mul (local.get $u) (local.get $u)) (f64.mul (local.get $v) (local.get $v))))
      (local.set $up (i32.add (local.get $up) (i32.const 16)))
      (local.set $down (i32.sub (local.get $down) (i32.const 16)))
      (br_if $bins (i32.le_u
        (local.tee $k (i32.add (local.get $k) (i32.const 1))) (i32.shr_u (local.get $size) (i32.const 1))))))

  ;; The largest magnitude in each of $groups groups of 32 samples of single precision at $x, to $peaks.
  (func (export "peaks") (param $groups i32) (param $x i32) (param $peaks i32)
    (local $end i32) (local $stop i32) (local $m v128)
    (local.set $stop (i32.add (local.get $peaks) (i32.shl (local.get $groups) (i32.const 2))))
    (loop $next
      (local.set $m (v128.const f32x4 0 0 0 0))
      (local.set $end (i32.add (local.get $x) (i32.const 128)))
      (loop $within
        (local.set $m (f32x4.pmax (local.get $m) (f32x4.abs (v128.load (local.get $x)))))
        (br_if $within (i32.lt_u (local.tee $x (i32.add (local.get $x) (i32.const 16))) (local.get $end))))
      (local.set $m (f32x4.pmax (local.get $m) (i8x16.shuffle 8 9 10 11 12 13 14 15 0 1 2 3 4 5 6 7 (local.get $m) (local.get $m))))
      (local.set $m (f32x4.pmax (local.get $m) (i8x16.shuffle 4 5 6 7 0 1 2 3 12 13 14 15 8 9 10 11 (local.get $m) (local.get $m))))
      (f32.store (local.get $peaks) (f32x4.extract_lane 0 (local.get $m)))
      (br_if $next (i32.lt_u (local.tee $peaks (i32.add (local.get $peaks) (i32.const 4))) (local.get $stop)))))

  ;; The largest magnitude between samples: of $count places from the one whose 24 samples begin at $x on, each interpolated by $phases
  ;; filters of 24 taps at $filters; single precision.
  (func (export "between") (param $x i32) (param $count i32) (param $filters i32) (param $phases i32) (result f32)
    (local $f i32) (local $stop i32) (local $last i32) (local $sum v128) (local $top f32)
    (local.set $last (i32.add (local.get $x) (i32.shl (local.get $count) (i32.const 2))))
    (local.set $stop (i32.add (local.get $filters) (i32.mul (local.get $phases) (i32.const 96))))
    (block $done
      (loop $places
        (br_if $done (i32.ge_u (local.get $x) (local.get $last)))
        (local.set $f (local.get $filters))
        (loop $each
          (local.set $sum (f32x4.mul (v128.load (local.get $x)) (v128.load (local.get $f))))
          (local.set $sum (f32x4.add (local.get $sum) (f32x4.mul (v128.load offset=16 (local.get $x)) (v128.load offset=16 (local.get $f)))))
          (local.set $sum (f32x4.add (local.get $sum) (f32x4.mul (v128.load offset=32 (local.get $x)) (v128.load offset=32 (local.get $f)))))
          (local.set $sum (f32x4.add (local.get $sum) (f32x4.mul (v128.load offset=48 (local.get $x)) (v128.load offset=48 (local.get $f)))))
          (local.set $sum (f32x4.add (local.get $sum) (f32x4.mul (v128.load offset=64 (local.get $x)) (v128.load offset=64 (local.get $f)))))
          (local.set $sum (f32x4.add (local.get $sum) (f32x4.mul (v128.load offset=80 (local.get $x)) (v128.load offset=80 (local.get $f)))))
          (local.set $sum (f32x4.add (local.get $sum) (i8x16.shuffle 8 9 10 11 12 13 14 15 0 1 2 3 4 5 6 7 (local.get $sum) (local.get $sum))))
          (local.set $top (f32.max (local.get $top) (f32.abs
            (f32.add (f32x4.extract_lane 0 (local.get $sum)) (f32x4.extract_lane 1 (local.get $sum))))))
          (br_if $each (i32.lt_u (local.tee $f (i32.add (local.get $f) (i32.const 96))) (local.get $stop))))
        (local.set $x (i32.add (local.get $x) (i32.const 4)))
        (br $places)))
    (local.get $top))
)
