;; Inner loops of filters. All of them work in one memory, on what was put there just before.
(module
  (memory (export "memory") 1)

  ;; $count values of single precision to $to, each the sum of $n taps at $taps times as many values from its place at $x on. $count is a
  ;; multiple of 16.
  (func $fir (export "fir") (param $x i32) (param $taps i32) (param $n i32) (param $count i32) (param $to i32)
    (local $end i32) (local $stop i32) (local $t i32) (local $p i32)
    (local $a v128) (local $b v128) (local $c v128) (local $d v128) (local $w v128)
    (local.set $stop (i32.add (local.get $to) (i32.shl (local.get $count) (i32.const 2))))
    (local.set $end (i32.add (local.get $taps) (i32.shl (local.get $n) (i32.const 2))))
    (loop $sixteen
      (local.set $a (v128.const f32x4 0 0 0 0))
      (local.set $b (v128.const f32x4 0 0 0 0))
      (local.set $c (v128.const f32x4 0 0 0 0))
      (local.set $d (v128.const f32x4 0 0 0 0))
      (local.set $t (local.get $taps))
      (local.set $p (local.get $x))
      (loop $tap
        (local.set $w (v128.load32_splat (local.get $t)))
        (local.set $a (f32x4.add (local.get $a) (f32x4.mul (local.get $w) (v128.load (local.get $p)))))
        (local.set $b (f32x4.add (local.get $b) (f32x4.mul (local.get $w) (v128.load offset=16 (local.get $p)))))
        (local.set $c (f32x4.add (local.get $c) (f32x4.mul (local.get $w) (v128.load offset=32 (local.get $p)))))
        (local.set $d (f32x4.add (local.get $d) (f32x4.mul (local.get $w) (v128.load offset=48 (local.get $p)))))
        (local.set $p (i32.add (local.get $p) (i32.const 4)))
        (br_if $tap (i32.lt_u (local.tee $t (i32.add (local.get $t) (i32.const 4))) (local.get $end))))
      (v128.store (local.get $to) (local.get $a))
      (v128.store offset=16 (local.get $to) (local.get $b))
      (v128.store offset=32 (local.get $to) (local.get $c))
      (v128.store offset=48 (local.get $to) (local.get $d))
      (local.set $x (i32.add (local.get $x) (i32.const 64)))
      (br_if $sixteen (i32.lt_u (local.tee $to (i32.add (local.get $to) (i32.const 64))) (local.get $stop)))))

  ;; Twice the rate: of $count samples at $x, in front of which $n - 1 lie that came before, each one of the sums of $n $taps and the
  ;; sample in their middle, in turn to $to. $made is room for the sums.
  (func (export "double") (param $x i32) (param $taps i32) (param $n i32) (param $count i32) (param $made i32) (param $to i32)
    (local $end i32) (local $a v128) (local $b v128)
    (call $fir (local.get $x) (local.get $taps) (local.get $n)
      (i32.and (i32.add (local.get $count) (i32.const 15)) (i32.const -16)) (local.get $made))
    (local.set $x (i32.add (local.get $x) (i32.shl (i32.shr_u (local.get $n) (i32.const 1)) (i32.const 2))))
    (local.set $end (i32.add (local.get $made) (i32.shl (local.get $count) (i32.const 2))))
    (loop $four
      (local.set $a (v128.load (local.get $made)))
      (local.set $b (v128.load (local.get $x)))
      (v128.store (local.get $to) (i8x16.shuffle 0 1 2 3 16 17 18 19 4 5 6 7 20 21 22 23 (local.get $a) (local.get $b)))
      (v128.store offset=16 (local.get $to)
        (i8x16.shuffle 8 9 10 11 24 25 26 27 12 13 14 15 28 29 30 31 (local.get $a) (local.get $b)))
      (local.set $to (i32.add (local.get $to) (i32.const 32)))
      (local.set $x (i32.add (local.get $x) (i32.const 16)))
      (br_if $four (i32.lt_u (local.tee $made (i32.add (local.get $made) (i32.const 16))) (local.get $end)))))

  ;; Half the rate: of $count pairs of samples at $z the first ones to $even, in front of which $n - 1 lie that came before, and the others
  ;; to $odd, in front of which $n / 2 do; to $to the sums of $n $taps over the first ones and half of the other one in their middle.
  (func (export "halve") (param $z i32) (param $even i32) (param $odd i32) (param $taps i32) (param $n i32) (param $count i32) (param $to i32)
    (local $end i32) (local $e i32) (local $o i32)
    (local.set $e (i32.add (local.get $even) (i32.shl (i32.sub (local.get $n) (i32.const 1)) (i32.const 2))))
    (local.set $o (i32.add (local.get $odd) (i32.shl (i32.shr_u (local.get $n) (i32.const 1)) (i32.const 2))))
    (local.set $end (i32.add (local.get $e) (i32.shl (local.get $count) (i32.const 2))))
    (loop $four
      (v128.store (local.get $e)
        (i8x16.shuffle 0 1 2 3 8 9 10 11 16 17 18 19 24 25 26 27
          (v128.load (local.get $z)) (v128.load offset=16 (local.get $z))))
      (v128.store (local.get $o)
        (i8x16.shuffle 4 5 6 7 12 13 14 15 20 21 22 23 28 29 30 31
          (v128.load (local.get $z)) (v128.load offset=16 (local.get $z))))
      (local.set $z (i32.add (local.get $z) (i32.const 32)))
      (local.set $o (i32.add (local.get $o) (i32.const 16)))
      (br_if $four (i32.lt_u (local.tee $e (i32.add (local.get $e) (i32.const 16))) (local.get $end))))
    (call $fir (local.get $even) (local.get $taps) (local.get $n)
      (i32.and (i32.add (local.get $count) (i32.const 15)) (i32.const -16)) (local.get $to))
    (local.set $end (i32.add (local.get $to) (i32.shl (local.get $count) (i32.const 2))))
    (loop $middle
      (v128.store (local.get $to) (f32x4.add (v128.load (local.get $to))
        (f32x4.mul (f32x4.splat (f32.const 0.5)) (v128.load (local.get $odd)))))
      (local.set $odd (i32.add (local.get $odd) (i32.const 16)))
      (br_if $middle (i32.lt_u (local.tee $to (i32.add (local.get $to) (i32.const 16))) (local.get $end)))))

  ;; $n second-order sections one after another: each 40 bytes at $section, and 32 at $kept; see below.
  (func (export "sections") (param $left i32) (param $right i32) (param $count i32) (param $section i32) (param $kept i32) (param $n i32)
    (loop $next
      (call $section (local.get $left) (local.get $right) (local.get $count) (local.get $section) (local.get $kept))
      (local.set $section (i32.add (local.get $section) (i32.const 40)))
      (local.set $kept (i32.add (local.get $kept) (i32.const 32)))
      (br_if $next (i32.gt_s (local.tee $n (i32.sub (local.get $n) (i32.const 1))) (i32.const 0)))))

  ;; One second-order section over $count samples of single precision of two channels, in place, in the transposed direct form II: b0, b1,
  ;; b2, a1 and a2 of double precision at $section; at $kept what it keeps, twice two values, left and right.
  (func $section (param $left i32) (param $right i32) (param $count i32) (param $section i32) (param $kept i32)
    (local $end i32) (local $x v128) (local $y v128) (local $one v128) (local $two v128)
    (local $b0 v128) (local $b1 v128) (local $b2 v128) (local $a1 v128) (local $a2 v128)
    (local.set $b0 (v128.load64_splat (local.get $section)))
    (local.set $b1 (v128.load64_splat offset=8 (local.get $section)))
    (local.set $b2 (v128.load64_splat offset=16 (local.get $section)))
    (local.set $a1 (v128.load64_splat offset=24 (local.get $section)))
    (local.set $a2 (v128.load64_splat offset=32 (local.get $section)))
    (local.set $one (v128.load (local.get $kept)))
    (local.set $two (v128.load offset=16 (local.get $kept)))
    (local.set $end (i32.add (local.get $left) (i32.shl (local.get $count) (i32.const 2))))
    (block $done
      (loop $next
        (br_if $done (i32.ge_u (local.get $left) (local.get $end)))
        (local.set $x (f64x2.replace_lane 1
          (f64x2.splat (f64.promote_f32 (f32.load (local.get $left))))
          (f64.promote_f32 (f32.load (local.get $right)))))
        (local.set $y (f64x2.add (f64x2.mul (local.get $b0) (local.get $x)) (local.get $one)))
        (local.set $one (f64x2.sub
          (f64x2.add (f64x2.mul (local.get $b1) (local.get $x)) (local.get $two))
          (f64x2.mul (local.get $a1) (local.get $y))))
        (local.set $two (f64x2.sub (f64x2.mul (local.get $b2) (local.get $x)) (f64x2.mul (local.get $a2) (local.get $y))))
        (f32.store (local.get $left) (f32.demote_f64 (f64x2.extract_lane 0 (local.get $y))))
        (f32.store (local.get $right) (f32.demote_f64 (f64x2.extract_lane 1 (local.get $y))))
        (local.set $left (i32.add (local.get $left) (i32.const 4)))
        (local.set $right (i32.add (local.get $right) (i32.const 4)))
        (br $next)))
    (v128.store (local.get $kept) (local.get $one))
    (v128.store offset=16 (local.get $kept) (local.get $two)))

  ;; Eight samples at $x for each of $count factors at $factors: times that and $bias added, through (693 y - 1155 y^3 + 1386 y^5 - 990 y^7
  ;; + 385 y^9 - 63 y^11) / 256 where y is held within -1..1; less $rest, in place.
  (func (export "bend") (param $x i32) (param $factors i32) (param $count i32) (param $bias f32) (param $rest f32)
    (local $end i32) (local $stop i32) (local $w v128) (local $y v128) (local $s v128)
    (local.set $stop (i32.add (local.get $factors) (i32.shl (local.get $count) (i32.const 2))))
    (loop $next
      (local.set $w (v128.load32_splat (local.get $factors)))
      (local.set $end (i32.add (local.get $x) (i32.const 32)))
      (loop $four
        (local.set $y (f32x4.add (f32x4.mul (v128.load (local.get $x)) (local.get $w)) (f32x4.splat (local.get $bias))))
        (local.set $y (f32x4.pmin (v128.const f32x4 1 1 1 1) (f32x4.pmax (v128.const f32x4 -1 -1 -1 -1) (local.get $y))))
        (local.set $s (f32x4.mul (local.get $y) (local.get $y)))
        (v128.store (local.get $x) (f32x4.sub
          (f32x4.mul
            (f32x4.mul (local.get $y) (v128.const f32x4 0.00390625 0.00390625 0.00390625 0.00390625))
            (f32x4.sub (v128.const f32x4 693 693 693 693) (f32x4.mul (local.get $s)
              (f32x4.sub (v128.const f32x4 1155 1155 1155 1155) (f32x4.mul (local.get $s)
                (f32x4.sub (v128.const f32x4 1386 1386 1386 1386) (f32x4.mul (local.get $s)
                  (f32x4.sub (v128.const f32x4 990 990 990 990) (f32x4.mul (local.get $s)
                    (f32x4.sub (v128.const f32x4 385 385 385 385) (f32x4.mul (local.get $s)
                      (v128.const f32x4 63 63 63 63))))))))))))
          (f32x4.splat (local.get $rest))))
        (br_if $four (i32.lt_u (local.tee $x (i32.add (local.get $x) (i32.const 16))) (local.get $end))))
      (br_if $next (i32.lt_u (local.tee $factors (i32.add (local.get $factors) (i32.const 4))) (local.get $stop)))))
)
