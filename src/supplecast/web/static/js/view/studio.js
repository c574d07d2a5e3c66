// How a finished part is lit: a small room of lamps and walls made here, a soft shadow where it stands, a calm background.

import {
  AmbientLight,
  BackSide,
  BoxGeometry,
  Color,
  DirectionalLight,
  FrontSide,
  Matrix4,
  Mesh,
  MeshBasicMaterial,
  MeshDepthMaterial,
  OrthographicCamera,
  PMREMGenerator,
  PlaneGeometry,
  Scene,
  ShaderMaterial,
  Vector3,
  WebGLRenderTarget,
} from 'three';

export const BACKGROUNDS = ['bench', 'paper', 'dusk'];
const SHADOW = 256; // px a side
const ROOM = 0.52; // so that a matt face that looks at one is as bright as its colour says
const WALLS = 0.62; // how bright the room is, against the lamps
/** Lamps: how bright, how wide and high, and where they stand, in a room of 20 across; z is up.
 * @type {[number, [number, number, number], [number, number, number]][]} */
const LAMPS = [
  [9, [6, 6, 0.2], [0, 0, 9.6]],
  [7, [0.2, 5, 7], [-9.6, -3, 3]],
  [4, [5, 0.2, 6], [3, -9.6, 2]],
  [3, [0.2, 3, 4], [9.6, 4, 1]],
];

export class Studio {
  constructor(viewer) {
    this.viewer = viewer;
    this.on = false;
    this.sun = new DirectionalLight('#ffffff', 0.9);
    this.fill = new AmbientLight('#ffffff', 0.12);
    this.shadow = null;
  }

  // Light the scene as a studio, or as a bench again.
  set(on) {
    const { scene } = this.viewer;
    if (on === this.on) return;
    this.on = on;
    scene.environment = on ? this._room() : null;
    scene.environmentIntensity = ROOM;
    for (const lamp of this.viewer.lamps) lamp.visible = !on;
    if (on) scene.add(this.sun, this.sun.target, this.fill);
    else scene.remove(this.sun, this.sun.target, this.fill);
    if (this.shadow) this.shadow.floor.visible = on;
  }

  // The room's light, worked out once.
  _room() {
    if (this.light) return this.light;
    const room = new Scene();
    const box = new BoxGeometry();
    /** @type {(bright: number, size: [number, number, number], at: [number, number, number], side?: import('three').Side) => void} */
    const put = (bright, [wide, deep, high], [x, y, z], side = FrontSide) => {
      const mesh = new Mesh(box, new MeshBasicMaterial({ color: new Color(bright, bright, bright), side }));
      mesh.scale.set(wide, deep, high);
      mesh.position.set(x, y, z);
      room.add(mesh);
    };
    put(WALLS, [20, 20, 20], [0, 0, 0], BackSide);
    put(WALLS * 0.55, [20, 20, 0.2], [0, 0, -9.8]);
    for (const [bright, size, at] of LAMPS) put(bright, size, at);
    const maker = new PMREMGenerator(this.viewer.renderer);
    this.light = maker.fromScene(room, 0.03).texture;
    maker.dispose();
    box.dispose();
    return this.light;
  }

  // The sun comes over one's left shoulder.
  follow(eye) {
    this.sun.position
      .copy(eye.target)
      .addScaledVector(eye.way, 900)
      .addScaledVector(eye.axes().up, 800)
      .addScaledVector(eye.right, -700);
    this.sun.target.position.copy(eye.target);
  }

  // Lay the shadow anew under what is shown: the nearer a place is to the ground, the darker it is there.
  ground() {
    const { viewer } = this;
    const corners = viewer.corners();
    if (!this.on || !corners.length) {
      if (this.shadow) this.shadow.floor.visible = false;
      return;
    }
    this.shadow ||= this._floor();
    const { floor, eye, near, far, pen, blurs, depth } = this.shadow;
    const [x, y, z] = viewer.eye.frame;
    const reach = (axis) => {
      const along = corners.map((corner) => corner.dot(axis));
      return [Math.min(...along), Math.max(...along)];
    };
    const [[x0, x1], [y0, y1], [z0, z1]] = [x, y, z].map(reach);
    const side = 1.7 * Math.max(x1 - x0, y1 - y0, 0.5 * (z1 - z0));
    const lift = 0.002 * side;
    const middle = new Vector3()
      .addScaledVector(x, (x0 + x1) / 2)
      .addScaledVector(y, (y0 + y1) / 2)
      .addScaledVector(z, z0 - lift);
    floor.position.copy(middle);
    floor.quaternion.setFromRotationMatrix(new Matrix4().makeBasis(x, y, z));
    floor.scale.set(side, side, 1);
    // Seen from below: a camera on its back, with x to the left.
    Object.assign(eye, {
      left: -side / 2,
      right: side / 2,
      top: side / 2,
      bottom: -side / 2,
      near: 0,
      far: 0.45 * side,
    });
    eye.position.copy(middle);
    eye.up.copy(y);
    eye.lookAt(middle.clone().add(z));
    eye.updateProjectionMatrix();
    eye.updateMatrixWorld();
    const { renderer, scene } = viewer;
    const [clear, alpha] = [renderer.getClearColor(new Color()).clone(), renderer.getClearAlpha()];
    const aside = [...viewer.bodies.values()].flatMap(({ edges, behind, prints }) => [edges, behind, ...prints]);
    const unseen = [
      floor,
      viewer.sketches,
      viewer.marks,
      viewer.lines,
      viewer.cuts,
      viewer.traces,
      viewer.grips,
      ...aside,
    ];
    const were = unseen.map((one) => one.visible);
    unseen.forEach((one) => (one.visible = false));
    renderer.setClearColor(0x000000, 0);
    scene.overrideMaterial = depth;
    renderer.setRenderTarget(near);
    renderer.clear();
    renderer.render(scene, eye);
    scene.overrideMaterial = null;
    for (const [from, to, blur] of [
      [near, far, blurs[0]],
      [far, near, blurs[1]],
      [near, far, blurs[2]],
      [far, near, blurs[3]],
    ]) {
      blur.uniforms.held.value = from.texture;
      pen.mesh.material = blur;
      renderer.setRenderTarget(to);
      renderer.clear();
      renderer.render(pen.scene, pen.eye);
    }
    renderer.setRenderTarget(null);
    renderer.setClearColor(clear, alpha);
    unseen.forEach((one, index) => (one.visible = were[index]));
    floor.visible = true;
  }

  _floor() {
    const target = () => new WebGLRenderTarget(SHADOW, SHADOW, { depthBuffer: true });
    const [near, far] = [target(), target()];
    const depth = new MeshDepthMaterial();
    depth.onBeforeCompile = (shader) => {
      shader.fragmentShader = shader.fragmentShader.replace(
        'gl_FragColor = vec4( vec3( 1.0 - fragCoordZ ), opacity );',
        'gl_FragColor = vec4( vec3( 0.0 ), pow( 1.0 - fragCoordZ, 1.6 ) * 0.62 );',
      );
    };
    depth.depthWrite = true;
    const mesh = new Mesh(new PlaneGeometry(2, 2));
    const pen = { mesh, scene: new Scene(), eye: new OrthographicCamera(-1, 1, 1, -1, 0, 1) };
    pen.scene.add(mesh);
    const blur = (x, y) =>
      new ShaderMaterial({
        uniforms: { held: { value: null } },
        depthTest: false,
        depthWrite: false,
        vertexShader: 'varying vec2 at; void main() { at = uv; gl_Position = vec4(position.xy, 0.0, 1.0); }',
        fragmentShader: `uniform sampler2D held; varying vec2 at;
          void main() {
            float sum = 0.0, all = 0.0;
            for (int i = -7; i <= 7; i++) {
              float w = exp(-float(i * i) / 22.0);
              sum += w * texture2D(held, at + float(i) * vec2(${(x / SHADOW).toFixed(6)}, ${(y / SHADOW).toFixed(6)})).a;
              all += w;
            }
            gl_FragColor = vec4(0.0, 0.0, 0.0, sum / all);
          }`,
      });
    const blurs = [blur(1.4, 0), blur(0, 1.4), blur(0.7, 0), blur(0, 0.7)];
    const floor = new Mesh(
      new PlaneGeometry(1, 1),
      new ShaderMaterial({
        uniforms: { held: { value: near.texture } },
        transparent: true,
        depthWrite: false,
        vertexShader:
          'varying vec2 at; void main() { at = vec2(1.0 - uv.x, uv.y);' +
          'gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0); }',
        fragmentShader:
          'uniform sampler2D held; varying vec2 at; void main() { gl_FragColor = vec4(0.03, 0.06, 0.06, texture2D(held, at).a); }',
      }),
    );
    floor.renderOrder = 5;
    this.viewer.scene.add(floor);
    return { floor, eye: new OrthographicCamera(), near, far, depth, pen, blurs };
  }
}
