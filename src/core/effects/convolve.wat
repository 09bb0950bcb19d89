;; Products of spectra, added up: the inner loop of partitioned convolution. Real parts of a spectrum lie before its imaginary ones.
(module
  (memory (export "memory") 1)

  ;; Adds to $y the product of $x and $h, times $weight: $bytes of real parts and as many of imaginary ones behind them, in each; single
  ;; precision, a multiple of 16.
  (func (export "multiply") (param $bytes i32) (param $x i32) (param $h i32) (param $y i32) (param $weight f32)
    (local $end i32) (local $w v128) (local $a v128) (local $b v128) (local $c v128) (local $d v128)
    (local $xi i32) (local $hi i32) (local $yi i32)
    (local.set $end (i32.add (local.get $x) (local.get $bytes)))
    (local.set $xi (i32.add (local.get $x) (local.get $bytes)))
    (local.set $hi (i32.add (local.get $h) (local.get $bytes)))
    (local.set $yi (i32.add (local.get $y) (local.get $bytes)))
    (local.set $w (f32x4.splat (local.get $weight)))
    (loop $next
      (local.set $a (f32x4.mul (local.get $w) (v128.load (local.get $x))))
      (local.set $b (f32x4.mul (local.get $w) (v128.load (local.get $xi))))
      (local.set $c (v128.load (local.get $h)))
      (local.set $d (v128.load (local.get $hi)))
      (v128.store (local.get $y)
        (f32x4.add (v128.load (local.get $y))
          (f32x4.sub (f32x4.mul (local.get $a) (local.get $c)) (f32x4.mul (local.get $b) (local.get $d)))))
      (v128.store (local.get $yi)
        (f32x4.add (v128.load (local.get $yi))
          (f32x4.add (f32x4.mul (local.get $a) (local.get $d)) (f32x4.mul (local.get $b) (local.get $c)))))
      (local.set $xi (i32.add (local.get $xi) (i32.const 16)))
      (local.set $h (i32.add (local.get $h) (i32.const 16)))
      (local.set $hi (i32.add (local.get $hi) (i32.const 16)))
      (local.set $y (i32.add (local.get $y) (i32.const 16)))
      (local.set $yi (i32.add (local.get $yi) (i32.const 16)))
      (br_if $next (i32.lt_u (local.tee $x (i32.add (local.get $x) (i32.const 16))) (local.get $end)))))
)
