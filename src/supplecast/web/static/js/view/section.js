// The section: a plane that clips every body, with hatched caps drawn by counting faces in the stencil buffer.

import {
  AlwaysStencilFunc,
  BackSide,
  CanvasTexture,
  Color,
  DecrementWrapStencilOp,
  DoubleSide,
  FrontSide,
  IncrementWrapStencilOp,
  Mesh,
  MeshBasicMaterial,
  NotEqualStencilFunc,
  Plane,
  PlaneGeometry,
  RepeatWrapping,
  ReplaceStencilOp,
  SRGBColorSpace,
  Vector3,
} from 'three';

export class Section {
  constructor() {
    this.on = false;
    this.normal = new Vector3(0, 1, 0);
    this.at = 0;
    this.plane = new Plane(new Vector3(0, 1, 0), 0);
  }

  // What lies beyond the plane, where its normal points to, stays; what lies before it is cut away.
  set({ on = this.on, normal = this.normal, at = this.at }) {
    Object.assign(this, { on, normal: normal.clone(), at });
    this.plane.normal.copy(this.normal);
    this.plane.constant = -at;
  }

  // Cut across a plane given by its frame, whatever the section was; null gives it back.
  across(frame) {
    if (frame) {
      if (!this.kept) this.kept = { on: this.on, normal: this.normal, at: this.at };
      this.on = true;
      this.plane.setFromNormalAndCoplanarPoint(
        new Vector3(...frame.normal).negate(),
        new Vector3(...frame.origin).addScaledVector(new Vector3(...frame.normal), 1e-3),
      );
    } else if (this.kept) {
      this.set(this.kept);
      this.kept = null;
    }
  }

  get planes() {
    return this.on ? [this.plane] : [];
  }

  // Meshes that fill the cut of one body; drawn in order so that bodies do not mix.
  caps(geometry, colour, order, size) {
    const count = (side, op) => {
      const material = new MeshBasicMaterial({
        side,
        depthWrite: false,
        depthTest: false,
        colorWrite: false,
        clippingPlanes: this.planes,
        stencilWrite: true,
        stencilFunc: AlwaysStencilFunc,
        stencilFail: op,
        stencilZFail: op,
        stencilZPass: op,
      });
      const mesh = new Mesh(geometry, material);
      mesh.renderOrder = order;
      return mesh;
    };
    const cap = new Mesh(
      new PlaneGeometry(size, size),
      new MeshBasicMaterial({
        map: hatch(colour, size),
        side: DoubleSide,
        stencilWrite: true,
        stencilRef: 0,
        stencilFunc: NotEqualStencilFunc,
        stencilFail: ReplaceStencilOp,
        stencilZFail: ReplaceStencilOp,
        stencilZPass: ReplaceStencilOp,
      }),
    );
    cap.renderOrder = order + 1;
    cap.onAfterRender = (renderer) => renderer.clearStencil();
    return { counters: [count(BackSide, IncrementWrapStencilOp), count(FrontSide, DecrementWrapStencilOp)], cap };
  }

  place(cap, centre) {
    const normal = this.plane.normal;
    const point = new Vector3().copy(centre).addScaledVector(normal, -this.plane.distanceToPoint(centre));
    cap.position.copy(point);
    cap.lookAt(point.clone().add(normal));
  }
}

function hatch(colour, size) {
  const sheet = document.createElement('canvas');
  sheet.width = sheet.height = 64;
  const pen = sheet.getContext('2d');
  pen.fillStyle = `#${new Color(colour).lerp(new Color('#ffffff'), 0.25).getHexString()}`;
  pen.fillRect(0, 0, 64, 64);
  pen.strokeStyle = 'rgba(18,33,31,.55)';
  pen.lineWidth = 5;
  for (const shift of [-64, 0, 64]) {
    pen.beginPath();
    pen.moveTo(shift, 64);
    pen.lineTo(shift + 64, 0);
    pen.stroke();
  }
  const texture = new CanvasTexture(sheet);
  texture.wrapS = texture.wrapT = RepeatWrapping;
  texture.colorSpace = SRGBColorSpace;
  texture.repeat.set(size / 2.4, size / 2.4);
  texture.anisotropy = 8;
  return texture;
}
