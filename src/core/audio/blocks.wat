;; What measuring does to every sample, four or two at a time. Samples are of single precision, sums of double; counts are multiples of four
;; where nothing else is said, and addresses come with the call.
(module
  (memory (export "memory") 1)

  ;; Of $count samples at $x, before which the one lies that came before: their sum and the sum of squared steps from one to the next, two
  ;; halves each, to $sums. Returns the largest magnitude.
  (func (export "scan") (param $x i32) (param $count i32) (param $sums i32) (result f32)
    (local $end i32) (local $v v128) (local $d v128) (local $sum v128) (local $steps v128) (local $top v128) (local $w v128)
    (local.set $end (i32.add (local.get $x) (i32.shl (local.get $count) (i32.const 2))))
    (block $done
      (loop $four
        (br_if $done (i32.ge_u (local.get $x) (local.get $end)))
        (local.set $v (v128.load (local.get $x)))
        (local.set $w (v128.load (i32.sub (local.get $x) (i32.const 4))))
        (local.set $top (f32x4.pmax (local.get $top) (f32x4.abs (local.get $v))))
        ;; The first two, and then the last two.
        (local.set $d (f64x2.promote_low_f32x4 (local.get $v)))
        (local.set $sum (f64x2.add (local.get $sum) (local.get $d)))
        (local.set $d (f64x2.sub (local.get $d) (f64x2.promote_low_f32x4 (local.get $w))))
        (local.set $steps (f64x2.add (local.get $steps) (f64x2.mul (local.get $d) (local.get $d))))
        (local.set $d (f64x2.promote_low_f32x4
          (i8x16.shuffle 8 9 10 11 12 13 14 15 0 1 2 3 4 5 6 7 (local.get $v) (local.get $v))))
        (local.set $sum (f64x2.add (local.get $sum) (local.get $d)))
        (local.set $d (f64x2.sub (local.get $d) (f64x2.promote_low_f32x4
          (i8x16.shuffle 8 9 10 11 12 13 14 15 0 1 2 3 4 5 6 7 (local.get $w) (local.get $w)))))
        (local.set $steps (f64x2.add (local.get $steps) (f64x2.mul (local.get $d) (local.get $d))))
        (local.set $x (i32.add (local.get $x) (i32.const 16)))
        (br $four)))
    (v128.store (local.get $sums) (local.get $sum))
    (v128.store offset=16 (local.get $sums) (local.get $steps))
    (local.set $top (f32x4.pmax (local.get $top)
      (i8x16.shuffle 8 9 10 11 12 13 14 15 0 1 2 3 4 5 6 7 (local.get $top) (local.get $top))))
    (f32.max (f32x4.extract_lane 0 (local.get $top)) (f32x4.extract_lane 1 (local.get $top))))

  ;; The mean of two channels of $count samples, to $mono, and four sums, two halves each, to $sums: squares of their sum, of their
  ;; difference, of the first and of the second.
  (func (export "mix") (param $a i32) (param $b i32) (param $mono i32) (param $count i32) (param $sums i32)
    (local $end i32) (local $l v128) (local $r v128) (local $p v128) (local $q v128) (local $half v128) (local $turn i32)
    (local $mid v128) (local $side v128) (local $left v128) (local $right v128)
    (local.set $end (i32.add (local.get $a) (i32.shl (local.get $count) (i32.const 2))))
    (local.set $half (f32x4.splat (f32.const 0.5)))
    (block $done
      (loop $four
        (br_if $done (i32.ge_u (local.get $a) (local.get $end)))
        (local.set $l (v128.load (local.get $a)))
        (local.set $r (v128.load (local.get $b)))
        (v128.store (local.get $mono) (f32x4.mul (f32x4.add (local.get $l) (local.get $r)) (local.get $half)))
        (local.set $turn (i32.const 2))
        (loop $two
          (local.set $p (f64x2.promote_low_f32x4 (local.get $l)))
          (local.set $q (f64x2.promote_low_f32x4 (local.get $r)))
          (local.set $left (f64x2.add (local.get $left) (f64x2.mul (local.get $p) (local.get $p))))
          (local.set $right (f64x2.add (local.get $right) (f64x2.mul (local.get $q) (local.get $q))))
          (local.set $l (i8x16.shuffle 8 9 10 11 12 13 14 15 0 1 2 3 4 5 6 7 (local.get $l) (local.get $l)))
          (local.set $r (i8x16.shuffle 8 9 10 11 12 13 14 15 0 1 2 3 4 5 6 7 (local.get $r) (local.get $r)))
          (local.set $mid (f64x2.add (local.get $mid)
            (f64x2.mul (f64x2.add (local.get $p) (local.get $q)) (f64x2.add (local.get $p) (local.get $q)))))
          (local.set $side (f64x2.add (local.get $side)
            (f64x2.mul (f64x2.sub (local.get $p) (local.get $q)) (f64x2.sub (local.get $p) (local.get $q)))))
          (br_if $two (local.tee $turn (i32.sub (local.get $turn) (i32.const 1)))))
        (local.set $a (i32.add (local.get $a) (i32.const 16)))
        (local.set $b (i32.add (local.get $b) (i32.const 16)))
        (local.set $mono (i32.add (local.get $mono) (i32.const 16)))
        (br $four)))
    (v128.store (local.get $sums) (local.get $mid))
    (v128.store offset=16 (local.get $sums) (local.get $side))
    (v128.store offset=32 (local.get $sums) (local.get $left))
    (v128.store offset=48 (local.get $sums) (local.get $right)))

  ;; Every other one of $count pairs of samples at $x to $even, and those between to $odd.
  (func (export "split") (param $x i32) (param $even i32) (param $odd i32) (param $count i32)
    (local $end i32)
    (local.set $end (i32.add (local.get $even) (i32.shl (local.get $count) (i32.const 2))))
    (loop $four
      (v128.store (local.get $even)
        (i8x16.shuffle 0 1 2 3 8 9 10 11 16 17 18 19 24 25 26 27
          (v128.load (local.get $x)) (v128.load offset=16 (local.get $x))))
      (v128.store (local.get $odd)
        (i8x16.shuffle 4 5 6 7 12 13 14 15 20 21 22 23 28 29 30 31
          (v128.load (local.get $x)) (v128.load offset=16 (local.get $x))))
      (local.set $x (i32.add (local.get $x) (i32.const 32)))
      (local.set $odd (i32.add (local.get $odd) (i32.const 16)))
      (br_if $four (i32.lt_u
        (local.tee $even (i32.add (local.get $even) (i32.const 16))) (local.get $end)))))

  ;; $count outcomes of the half-band filter of 27 taps to $out: half of the sample in the middle, which lies at $odd, and seven $taps, the
  ;; inner one first, on either side, whose samples lie at $even.
  (func (export "halve") (param $even i32) (param $odd i32) (param $out i32) (param $count i32) (param $taps i32)
    (local $end i32) (local $sum v128)
    (local $a v128) (local $b v128) (local $c v128) (local $d v128) (local $e v128) (local $f v128) (local $g v128)
    (local.set $a (v128.load32_splat (local.get $taps)))
    (local.set $b (v128.load32_splat offset=4 (local.get $taps)))
    (local.set $c (v128.load32_splat offset=8 (local.get $taps)))
    (local.set $d (v128.load32_splat offset=12 (local.get $taps)))
    (local.set $e (v128.load32_splat offset=16 (local.get $taps)))
    (local.set $f (v128.load32_splat offset=20 (local.get $taps)))
    (local.set $g (v128.load32_splat offset=24 (local.get $taps)))
    (local.set $end (i32.add (local.get $out) (i32.shl (local.get $count) (i32.const 2))))
    (loop $four
      (local.set $sum (f32x4.mul (f32x4.splat (f32.const 0.5)) (v128.load offset=24 (local.get $odd))))
      (local.set $sum (f32x4.add (local.get $sum) (f32x4.mul (local.get $a)
        (f32x4.add (v128.load offset=24 (local.get $even)) (v128.load offset=28 (local.get $even))))))
      (local.set $sum (f32x4.add (local.get $sum) (f32x4.mul (local.get $b)
        (f32x4.add (v128.load offset=20 (local.get $even)) (v128.load offset=32 (local.get $even))))))
      (local.set $sum (f32x4.add (local.get $sum) (f32x4.mul (local.get $c)
        (f32x4.add (v128.load offset=16 (local.get $even)) (v128.load offset=36 (local.get $even))))))
      (local.set $sum (f32x4.add (local.get $sum) (f32x4.mul (local.get $d)
        (f32x4.add (v128.load offset=12 (local.get $even)) (v128.load offset=40 (local.get $even))))))
      (local.set $sum (f32x4.add (local.get $sum) (f32x4.mul (local.get $e)
        (f32x4.add (v128.load offset=8 (local.get $even)) (v128.load offset=44 (local.get $even))))))
      (local.set $sum (f32x4.add (local.get $sum) (f32x4.mul (local.get $f)
        (f32x4.add (v128.load offset=4 (local.get $even)) (v128.load offset=48 (local.get $even))))))
      (local.set $sum (f32x4.add (local.get $sum) (f32x4.mul (local.get $g)
        (f32x4.add (v128.load (local.get $even)) (v128.load offset=52 (local.get $even))))))
      (v128.store (local.get $out) (local.get $sum))
      (local.set $even (i32.add (local.get $even) (i32.const 16)))
      (local.set $odd (i32.add (local.get $odd) (i32.const 16)))
      (br_if $four (i32.lt_u
        (local.tee $out (i32.add (local.get $out) (i32.const 16))) (local.get $end)))))

  ;; Two channels of $count samples, any number, through two biquads (direct form 2, transposed) that they share: a shelf b0 b1 b2 a1 a2
  ;; and a high pass 1 -2 1 c1 c2, seven $factors of double precision. Each of the four parts of $state holds that of both. Adds the
  ;; squares of what comes out, both channels', to $sums.
  (func (export "weigh")
    (param $a i32) (param $b i32) (param $count i32) (param $factors i32) (param $state i32) (param $sums i32)
    (local $end i32) (local $x v128) (local $y v128) (local $z v128) (local $sum v128)
    (local $s1 v128) (local $s2 v128) (local $t1 v128) (local $t2 v128)
    (local $b0 v128) (local $b1 v128) (local $b2 v128) (local $a1 v128) (local $a2 v128) (local $c1 v128) (local $c2 v128)
    (local.set $b0 (v128.load64_splat (local.get $factors)))
    (local.set $b1 (v128.load64_splat offset=8 (local.get $factors)))
    (local.set $b2 (v128.load64_splat offset=16 (local.get $factors)))
    (local.set $a1 (v128.load64_splat offset=24 (local.get $factors)))
    (local.set $a2 (v128.load64_splat offset=32 (local.get $factors)))
    (local.set $c1 (v128.load64_splat offset=40 (local.get $factors)))
    (local.set $c2 (v128.load64_splat offset=48 (local.get $factors)))
    (local.set $s1 (v128.load (local.get $state)))
    (local.set $s2 (v128.load offset=16 (local.get $state)))
    (local.set $t1 (v128.load offset=32 (local.get $state)))
    (local.set $t2 (v128.load offset=48 (local.get $state)))
    (local.set $sum (v128.load (local.get $sums)))
    (local.set $end (i32.add (local.get $a) (i32.shl (local.get $count) (i32.const 2))))
    (block $done
      (loop $one
        (br_if $done (i32.ge_u (local.get $a) (local.get $end)))
        ;; A little more than nothing keeps what fades from becoming denormal.
        (local.set $x (f64x2.add
          (f64x2.promote_low_f32x4
            (v128.load32_lane 1 (local.get $b) (v128.load32_zero (local.get $a))))
          (v128.const f64x2 1e-18 1e-18)))
        (local.set $y (f64x2.add (f64x2.mul (local.get $b0) (local.get $x)) (local.get $s1)))
        (local.set $s1 (f64x2.add (local.get $s2)
          (f64x2.sub (f64x2.mul (local.get $b1) (local.get $x)) (f64x2.mul (local.get $a1) (local.get $y)))))
        (local.set $s2 (f64x2.sub (f64x2.mul (local.get $b2) (local.get $x)) (f64x2.mul (local.get $a2) (local.get $y))))
        (local.set $z (f64x2.add (local.get $y) (local.get $t1)))
        (local.set $t1 (f64x2.sub (local.get $t2)
          (f64x2.add (f64x2.add (local.get $y) (local.get $y)) (f64x2.mul (local.get $c1) (local.get $z)))))
        (local.set $t2 (f64x2.sub (local.get $y) (f64x2.mul (local.get $c2) (local.get $z))))
        (local.set $sum (f64x2.add (local.get $sum) (f64x2.mul (local.get $z) (local.get $z))))
        (local.set $a (i32.add (local.get $a) (i32.const 4)))
        (local.set $b (i32.add (local.get $b) (i32.const 4)))
        (br $one)))
    (v128.store (local.get $state) (local.get $s1))
    (v128.store offset=16 (local.get $state) (local.get $s2))
    (v128.store offset=32 (local.get $state) (local.get $t1))
    (v128.store offset=48 (local.get $state) (local.get $t2))
    (v128.store (local.get $sums) (local.get $sum)))

  ;; Of $spans stretches of $span samples each, any number, at $x, the sums of squares: added to those of double precision at $sums.
  (func (export "squares") (param $x i32) (param $span i32) (param $spans i32) (param $sums i32)
    (local $last i32) (local $twos i32) (local $end i32) (local $sum v128) (local $d v128) (local $one f64)
    (local.set $last (i32.add (local.get $sums) (i32.shl (local.get $spans) (i32.const 3))))
    (block $done
      (loop $each
        (br_if $done (i32.ge_u (local.get $sums) (local.get $last)))
        (local.set $end (i32.add (local.get $x) (i32.shl (local.get $span) (i32.const 2))))
        (local.set $twos (i32.add (local.get $x) (i32.shl (i32.and (local.get $span) (i32.const -2)) (i32.const 2))))
        (local.set $sum (v128.const f64x2 0 0))
        (block $odd
          (loop $two
            (br_if $odd (i32.ge_u (local.get $x) (local.get $twos)))
            (local.set $d (f64x2.promote_low_f32x4 (v128.load64_zero (local.get $x))))
            (local.set $sum (f64x2.add (local.get $sum) (f64x2.mul (local.get $d) (local.get $d))))
            (local.set $x (i32.add (local.get $x) (i32.const 8)))
            (br $two)))
        (local.set $one (f64.const 0))
        (if (i32.lt_u (local.get $x) (local.get $end)) (then (local.set $one (f64.promote_f32 (f32.load (local.get $x))))))
        (local.set $x (local.get $end))
        (f64.store (local.get $sums) (f64.add (f64.load (local.get $sums))
          (f64.add (f64.mul (local.get $one) (local.get $one))
            (f64.add (f64x2.extract_lane 0 (local.get $sum)) (f64x2.extract_lane 1 (local.get $sum))))))
        (local.set $sums (i32.add (local.get $sums) (i32.const 8)))
        (br $each))))

  ;; Of $spans stretches of $span samples each, any number but none, at $x, the lowest and the highest sample: where they go beyond the
  ;; pairs of single precision that are at $pairs already.
  (func (export "bounds") (param $x i32) (param $span i32) (param $spans i32) (param $pairs i32)
    (local $last i32) (local $fours i32) (local $end i32) (local $low v128) (local $high v128) (local $v v128)
    (local.set $last (i32.add (local.get $pairs) (i32.shl (local.get $spans) (i32.const 3))))
    (block $done
      (loop $each
        (br_if $done (i32.ge_u (local.get $pairs) (local.get $last)))
        (local.set $end (i32.add (local.get $x) (i32.shl (local.get $span) (i32.const 2))))
        (local.set $fours (i32.add (local.get $x) (i32.shl (i32.and (local.get $span) (i32.const -4)) (i32.const 2))))
        (local.set $low (v128.load32_splat (local.get $pairs)))
        (local.set $high (v128.load32_splat offset=4 (local.get $pairs)))
        (block $rest
          (loop $four
            (br_if $rest (i32.ge_u (local.get $x) (local.get $fours)))
            (local.set $v (v128.load (local.get $x)))
            (local.set $low (f32x4.pmin (local.get $low) (local.get $v)))
            (local.set $high (f32x4.pmax (local.get $high) (local.get $v)))
            (local.set $x (i32.add (local.get $x) (i32.const 16)))
            (br $four)))
        (block $full
          (loop $one
            (br_if $full (i32.ge_u (local.get $x) (local.get $end)))
            (local.set $v (v128.load32_splat (local.get $x)))
            (local.set $low (f32x4.pmin (local.get $low) (local.get $v)))
            (local.set $high (f32x4.pmax (local.get $high) (local.get $v)))
            (local.set $x (i32.add (local.get $x) (i32.const 4)))
            (br $one)))
        (local.set $low (f32x4.pmin (local.get $low)
          (i8x16.shuffle 8 9 10 11 12 13 14 15 0 1 2 3 4 5 6 7 (local.get $low) (local.get $low))))
        (local.set $high (f32x4.pmax (local.get $high)
          (i8x16.shuffle 8 9 10 11 12 13 14 15 0 1 2 3 4 5 6 7 (local.get $high) (local.get $high))))
        (f32.store (local.get $pairs)
          (f32.min (f32x4.extract_lane 0 (local.get $low)) (f32x4.extract_lane 1 (local.get $low))))
        (f32.store offset=4 (local.get $pairs)
          (f32.max (f32x4.extract_lane 0 (local.get $high)) (f32x4.extract_lane 1 (local.get $high))))
        (local.set $pairs (i32.add (local.get $pairs) (i32.const 8)))
        (br $each))))
)
